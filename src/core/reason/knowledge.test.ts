import fc from 'fast-check';
import { describe, expect, test, vi } from 'vitest';
import { chainOf, smallRule } from '../agreement/small-chains';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { compareChains } from './equivalence';
import { Knowledge } from './knowledge';
import { Reach } from './reach';
import { Solver } from './solve/solver';

const rules = (...tests: readonly string[]): Chain =>
  chainFromSieve(
    `require ["fileinto", "variables"];\n${tests.map((one, n) => `if ${one} { fileinto "F${n}"; stop; }`).join('\n')}`,
  ).chain;

const answersOf = (chain: Chain, knowledge: Knowledge): string[] => {
  const reach = new Reach(chain, knowledge);
  return chain.entries.map((_, place) => reach.canFire(place).answer);
};

/** How many questions the search is asked while this runs. */
function askedBy(work: () => void): number {
  const asked = vi.spyOn(Solver.prototype, 'possible');
  work();
  const { length } = asked.mock.calls;
  asked.mockRestore();
  return length;
}

describe('what is known of one chain, for the next one', () => {
  const oak = 'header :contains "subject" "oak"';
  const beam = 'header :contains "subject" "oak beam"';
  const lime = 'header :contains "subject" "lime"';

  test('the same chain is not asked about again', () => {
    const knowledge = new Knowledge();
    const chain = rules(oak, beam, lime);
    expect(answersOf(chain, knowledge)).toEqual(['possible', 'shadowed', 'possible']);
    expect(askedBy(() => expect(answersOf(chain, knowledge)).toEqual(['possible', 'shadowed', 'possible']))).toBe(0);
  });

  test('after an edit only what it can affect is', () => {
    const knowledge = new Knowledge();
    answersOf(rules(oak, beam, lime), knowledge);
    // The stopping rule still precedes; the new rule could stop the example messages, and does not.
    expect(askedBy(() => answersOf(rules('header :is "x-tag" "a"', oak, beam, lime), knowledge))).toBe(1);
    // The stopping rule is removed.
    expect(answersOf(rules(beam, lime), knowledge)).toEqual(['possible', 'possible']);
    expect(answersOf(rules(beam, oak), knowledge)).toEqual(['possible', 'possible']);
    const reach = new Reach(rules(lime, oak, beam), knowledge);
    expect(reach.canFire(2)).toEqual({ answer: 'shadowed', blamed: [1], assumes: [] });
  });

  test('a field that is read as addresses for the first time holds other values', () => {
    const text = 'header :is "x-who" "no address"';
    const both = ['address :domain :is "x-who" "b.example"', 'header :is "x-who" "a@b.example"', text];
    const knowledge = new Knowledge();
    answersOf(rules(text), knowledge);
    expect(answersOf(rules(...both), knowledge)).toEqual(answersOf(rules(...both), new Knowledge()));
  });

  test('what was not settled is not asked again either, and is not taken as settled', () => {
    const knowledge = new Knowledge({ conflicts: 0, rounds: 0, steps: 0 });
    const chain = rules(oak, beam);
    expect(answersOf(chain, knowledge)).toEqual(['undecided', 'undecided']);
    expect(askedBy(() => expect(answersOf(chain, knowledge)).toEqual(['undecided', 'undecided']))).toBe(0);
  });

  test('what was ended at any moment is answered the same when it is asked again', () => {
    let ended = 0;
    fc.assert(
      fc.property(fc.array(smallRule, { minLength: 2, maxLength: 6 }), fc.integer({ min: 1, max: 6 }), (some, most) => {
        const chain = chainOf(some);
        const fresh = new Reach(chain);
        const knowledge = new Knowledge();
        let left = most;
        knowledge.checkpoint = () => {
          if (left-- === 0) throw new Error('ended');
        };
        const insist = <T>(ask: () => T): T => {
          for (;;) {
            // Each attempt has a larger budget, so that the loop ends.
            left = most++;
            try {
              return ask();
            } catch {
              ended++;
            }
          }
        };
        const answers = chain.entries.map((_, place) =>
          insist(() => new Reach(chain, knowledge).canFire(place).answer),
        );
        expect(answers).toEqual(chain.entries.map((_, place) => fresh.canFire(place).answer));
        const shorter = { ...chain, entries: chain.entries.slice(1) };
        const verdict = insist(() => compareChains(chain, shorter, { knowledge }).verdict);
        expect(verdict).toBe(compareChains(chain, shorter).verdict);
      }),
      { numRuns: 300 },
    );
    expect(ended).toBeGreaterThan(1000);
  });
});
