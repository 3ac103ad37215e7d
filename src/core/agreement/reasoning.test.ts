import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { type MailMessage, readMessage } from '../mail/message';
import { compareChains } from '../reason/equivalence';
import { Knowledge } from '../reason/knowledge';
import { Reach } from '../reason/reach';
import type { Assumption } from '../reason/solve/assumptions';
import { chainFromSieve } from '../rules/from-sieve';
import { type Chain, conditionOf, looksAtFlags, type Rule, type TestTree } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { elementAt } from '../text/lookup';
import { brokenBy, chainOf, ODD_MESSAGES, oddFlow, SMALL_ENVELOPE, SMALL_MESSAGES, smallRule } from './small-chains';

/** Random chains over a small vocabulary, compared with all small messages. */

function flowOf(one: Chain, messages: readonly MailMessage[]) {
  const columns = new MemoryColumns();
  for (const message of messages) columns.add(message, SMALL_ENVELOPE);
  return runFlow(one, evaluateAtoms(atomsOf(one), columns), columns.count);
}

const breaks = (at: number, assumes: readonly Assumption[]): boolean =>
  brokenBy(elementAt(ODD_MESSAGES, at)).some((one) => assumes.includes(one));

function fatesOf(one: Chain): string[] {
  const run = interpreter(parse(sieveFromChain(one).text).script);
  return SMALL_MESSAGES.map((message) => fateKey(run(message, SMALL_ENVELOPE).fate));
}

const from = (part: 'localpart' | 'domain', word: string, match: 'is' | 'contains' = 'is'): TestTree => ({
  kind: 'leaf',
  test: { test: 'address', headers: ['from'], part, match, comparator: 'i;ascii-casemap', keys: [word] },
});
const text = (word: string): TestTree => ({
  kind: 'leaf',
  test: { test: 'header', headers: ['from'], match: 'contains', comparator: 'i;ascii-casemap', keys: [word] },
});
const filing = (...children: readonly TestTree[]): Omit<Rule, 'id' | 'name'> => ({
  kind: 'rule',
  note: '',
  on: true,
  tests: { kind: 'all', children },
  unless: [],
  actions: [{ action: 'fileinto', folder: 'A', copy: false, flags: null }],
  ending: 'stop',
  link: 'always',
});

/** Chains whose last rule never acts, on an assumption only: random ones rarely are such. */
const NEEDING_ASSUMPTIONS: readonly (readonly Omit<Rule, 'id' | 'name'>[])[] = [
  [filing(from('domain', 'a'), from('domain', 'b'))],
  [filing(text('a')), filing(from('localpart', 'a', 'contains'))],
];

describe('what rules can do, against all small messages', () => {
  test('whether a rule can hold, and fire, and what keeps it from that', () => {
    const counts = { possible: 0, contradiction: 0, shadowed: 0, undecided: 0 };
    let [assumed, refuted] = [0, 0];
    fc.assert(
      fc.property(fc.array(smallRule, { minLength: 1, maxLength: 6 }), (rules) => {
        const one = chainOf(rules);
        const reach = new Reach(one);
        const { entries } = flowOf(one, SMALL_MESSAGES);
        const odd = oddFlow(one).entries;
        for (const [place, { fired }] of entries.entries()) {
          const answer = reach.canFire(place);
          counts[answer.answer]++;
          if (!fired.isEmpty()) expect(answer.answer).toBe('possible');
          if (answer.answer === 'contradiction' || answer.answer === 'shadowed') {
            const { fired: acted, held } = elementAt(odd, place);
            const refuting = answer.answer === 'contradiction' ? held : acted;
            // A message that refutes a proof breaks an assumption that the proof names.
            expect([...refuting.members()].every((at) => breaks(at, answer.assumes))).toBe(true);
            assumed += answer.assumes.length;
            refuted += refuting.count();
          }
          if (answer.answer === 'possible') {
            const { message } = answer.witness;
            const fires = flowOf(one, [message]).entries[place]?.fired.has(0);
            expect([answer.witness.text(), fires]).toEqual([answer.witness.text(), true]);
          }
          if (answer.answer !== 'possible') {
            const off = one.entries.map((entry, at) => (at === place ? { ...entry, on: false } : entry));
            expect(compareChains(one, { ...one, entries: off }).verdict).toBe('equivalent');
          }
          if (answer.answer === 'shadowed') {
            // Without any one of the blamed rules, some message fires it; with only them, still none does.
            const without = (left: readonly number[]) => {
              return new Reach({
                ...one,
                entries: one.entries.map((entry, at) => ({ ...entry, on: !left.includes(at) })),
              });
            };
            const others = entries.map((_, at) => at).filter((at) => at < place && !answer.blamed.includes(at));
            if (!one.entries.some((entry) => entry.kind === 'rule' && looksAtFlags(conditionOf(entry)))) {
              expect(without(others).canFire(place).answer).toBe('shadowed');
            }
          }
        }
      }),
      { numRuns: 500, examples: NEEDING_ASSUMPTIONS.map((rules) => [[...rules]]) },
    );
    expect(counts.undecided).toBe(0);
    expect(Math.min(counts.contradiction, counts.shadowed, counts.possible)).toBeGreaterThan(20);
    expect(Math.min(assumed, refuted)).toBeGreaterThanOrEqual(NEEDING_ASSUMPTIONS.length);
  });
});

const canFire = (chain: Chain, knowledge: Knowledge): string[] => {
  const reach = new Reach(chain, knowledge);
  return chain.entries.map((_, place) => reach.canFire(place).answer);
};

describe('equivalence, against all small messages', () => {
  test('random chains and small changes to them', () => {
    const changed = fc.tuple(
      fc.array(smallRule, { minLength: 1, maxLength: 4 }),
      fc.nat(),
      fc.constantFrom('swap', 'drop', 'end', 'double'),
      smallRule,
    );
    const counts = { equivalent: 0, different: 0, undecided: 0 };
    fc.assert(
      fc.property(changed, ([rules, at, how, other]) => {
        const place = at % rules.length;
        const made = [...rules];
        if (how === 'swap') made.splice(place, 2, ...made.slice(place, place + 2).reverse());
        if (how === 'drop') made.splice(place, 1);
        if (how === 'double') made.splice(place, 0, rules[place] ?? other);
        if (how === 'end')
          made[place] = { ...(made[place] ?? other), ending: made[place]?.ending === 'stop' ? 'continue' : 'stop' };
        const [a, b] = [chainOf(rules), chainOf(made)];
        const answer = compareChains(a, b);
        counts[answer.verdict]++;
        const [first, second] = [fatesOf(a), fatesOf(b)];
        const same = first.every((fate, index) => fate === second[index]);
        if (answer.verdict === 'equivalent') {
          expect(same).toBe(true);
          const differing = oddFlow(a).fates.differsFrom(oddFlow(b).fates);
          expect([...differing.members()].every((at) => breaks(at, answer.assumes))).toBe(true);
        }
        if (!same) expect(answer.verdict).toBe('different');
      }),
      { numRuns: 1500 },
    );
    expect(counts.undecided).toBe(0);
    expect(Math.min(counts.equivalent, counts.different)).toBeGreaterThan(50);
  });

  test('pieces of script that only the interpreter knows: never said to be alike where that is not known', () => {
    const block = (n: number) => `set "a${n}" "b"; if header :is "subject" "\${a${n}}" { fileinto "C"; stop; }`;
    const rules = (order: readonly string[]) =>
      chainFromSieve(`require ["variables", "fileinto"];\n${order.join('\n')}\n`).chain;
    const oak = 'if header :contains "x-tag" "oak" { fileinto "A"; }';
    const lime = 'if header :contains "x-tag" "lime" { fileinto "B"; }';
    const many = [block(1), oak, block(2), lime, block(3)];
    expect(compareChains(rules(many), rules(many)).verdict).toBe('equivalent');
    expect(compareChains(rules([oak, lime, block(1)]), rules([lime, oak, block(1)])).verdict).toBe('equivalent');
    expect(compareChains(rules([oak, block(1)]), rules([block(1), oak])).verdict).not.toBe('equivalent');
    expect(compareChains(rules([block(1)]), rules([block(2)])).verdict).not.toBe('equivalent');
  });

  test('a message of any size, and one that cannot be', () => {
    const rules = (text: string) => chainFromSieve(`require "fileinto";\n${text}`).chain;
    const large = compareChains(rules('if size :over 3M { fileinto "A"; }'), rules('keep;'));
    expect(large.verdict).toBe('different');
    if (large.verdict === 'different') {
      expect(readMessage(new TextEncoder().encode(large.witness.text())).size).toBe(large.witness.message.size);
      expect(large.witness.message.size).toBeGreaterThan(3 * 1024 ** 2);
    }
    const none = 'if allof (size :over 2K, size :under 1K) { fileinto "A"; }';
    expect(compareChains(rules(none), rules('keep;')).verdict).toBe('equivalent');
    const below = 'if allof (size :under 0, header :contains "subject" "oak") { fileinto "A"; }';
    expect(compareChains(rules(below), rules('keep;')).verdict).toBe('equivalent');
  });

  test('actions that are not understood may file', () => {
    const rules = (text: string) => chainFromSieve(`require ["fileinto", "special-use"];\n${text}`).chain;
    const filed = rules('if true { fileinto :specialuse "\\\\Archive" "A"; }');
    const kept = rules('if true { fileinto :specialuse "\\\\Archive" "A"; keep; }');
    expect(compareChains(filed, kept).verdict).not.toBe('equivalent');
    expect(compareChains(filed, filed).verdict).toBe('equivalent');
  });

  test('tabs, and line ends of a text, are nothing that cannot be', () => {
    const rules = (text: string) => chainFromSieve(`require ["fileinto", "body"];\n${text}`).chain;
    for (const found of ['header :contains "subject" "a\tb"', 'body :text :contains "a\r\n\tb"']) {
      expect(new Reach(rules(`if ${found} { fileinto "A"; }`)).canFire(0).answer).not.toBe('contradiction');
    }
  });
});

test('random chains, one after the other: the same is found out as by one who knows nothing', {
  timeout: 60_000,
}, () => {
  const some = fc.array(smallRule, { minLength: 1, maxLength: 5 });
  fc.assert(
    fc.property(some, fc.array(fc.tuple(fc.nat(), smallRule), { minLength: 1, maxLength: 4 }), (first, edits) => {
      const knowledge = new Knowledge();
      let made = first;
      canFire(chainOf(made), knowledge);
      for (const [at, other] of edits) {
        const before = chainOf(made);
        made = made.with(at % made.length, other);
        const after = chainOf(made);
        expect(canFire(after, knowledge)).toEqual(canFire(after, new Knowledge()));
        expect(compareChains(before, after, { knowledge }).verdict).toBe(compareChains(before, after).verdict);
      }
    }),
    { numRuns: 300 },
  );
});
