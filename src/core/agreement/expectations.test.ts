import fc from 'fast-check';
import { expect, test } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { atomsOf } from '../flow/program';
import { Knowledge } from '../reason/knowledge';
import { askingChain, checkAll, checkMessage, checkStored, type Expectation, type Must } from '../repair/expectations';
import { looksAtFlags } from '../rules/rule';
import { ARRIVAL } from '../sieve/interpret/world';
import { chainOf, SMALL_ENVELOPE, SMALL_MESSAGES, smallFlow, smallRule } from './small-chains';

/** Expectations on random chains: the proof about all messages, compared with all small ones; and both engines. */

const OWN = new Set(['a']);
const must: fc.Arbitrary<Must> = fc.constantFrom<Must>(
  { must: 'reach the inbox' },
  { must: 'not be dropped' },
  { must: 'be kept' },
  { must: 'not be sent outside' },
  { must: 'end in', folder: 'A' },
  { must: 'end only in', destination: { folders: ['A'], redirects: [], rejected: false } },
  { must: 'end only in', destination: { folders: ['INBOX', 'A'], redirects: [], rejected: false } },
  { must: 'end only in', destination: { folders: [], redirects: [], rejected: false } },
  { must: 'end only in', destination: { folders: [], redirects: ['b@b'], rejected: false } },
  { must: 'end only in', destination: { folders: [], redirects: [], rejected: true } },
);

test('what is said to hold for all messages holds for all small ones, and a counterexample is one', {
  timeout: 120_000,
}, () => {
  const verdicts = new Map<string, number>();
  const knowledge = new Knowledge();
  const chains = fc.array(smallRule, { minLength: 1, maxLength: 6 });
  fc.assert(
    fc.property(chains, smallRule, must, (rules, { tests }, required) => {
      fc.pre(!looksAtFlags(tests));
      const chain = chainOf(rules);
      const expectation: Expectation = { name: 'x', tests, must: required };
      const columns = new MemoryColumns();
      for (const message of SMALL_MESSAGES) columns.add(message, SMALL_ENVELOPE);
      const atoms = evaluateAtoms(atomsOf(askingChain([expectation])), columns);
      const { about, broken } = checkStored(expectation, smallFlow(chain), atoms, OWN);
      SMALL_MESSAGES.slice(0, 40).forEach((message, number) => {
        const single = checkMessage(chain, expectation, message, SMALL_ENVELOPE, { own: OWN, clock: ARRIVAL });
        const flowed = broken.has(number) ? 'broken' : about.has(number) ? 'met' : 'not concerned';
        expect(single).toBe(flowed);
      });
      const reasoned = checkAll(chain, expectation, OWN, { knowledge });
      verdicts.set(reasoned.verdict, (verdicts.get(reasoned.verdict) ?? 0) + 1);
      if (!broken.isEmpty()) expect(reasoned.verdict).not.toBe('holds');
      if (reasoned.verdict === 'broken') {
        const { message, envelope } = reasoned.witness;
        expect(checkMessage(chain, expectation, message, envelope, { own: OWN, clock: ARRIVAL })).toBe('broken');
      }
    }),
    { numRuns: 250 },
  );
  expect(verdicts.get('holds')).toBeGreaterThan(20);
  expect(verdicts.get('broken')).toBeGreaterThan(50);
  expect(verdicts.get('undecided') ?? 0).toBeLessThan(25);
});
