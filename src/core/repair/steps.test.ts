import fc from 'fast-check';
import { expect, test } from 'vitest';
import { chainOf, smallFlow, smallRule } from '../agreement/small-chains';
import { Bitmap } from '../flow/bitmap';
import { compareChains } from '../reason/equivalence';
import { contradictionsIn, type Profile, SIEVE, unfitFor, withProfile } from '../rules/profile';
import type { Chain, Rule } from '../rules/rule';
import { isSame } from '../rules/same';
import { INBOX } from '../sieve/interpret/fate';
import { elementAt } from '../text/lookup';
import { stepsBetween } from './steps';

/** More with PAIRS=2000 npx vitest run src/core/repair/steps.test.ts */
const PAIRS = Number(process.env.PAIRS ?? 200);

const RUNS: readonly (readonly [string, Profile])[] = [
  ['as Sieve', SIEVE],
  ['the first that matches', { ...SIEVE, ending: 'first', delete: 'bin' }],
  ['all, the last place', { ...SIEVE, ending: 'all', places: 'last', delete: 'bin' }],
  ['no order', { ...SIEVE, order: 'none', ending: 'all', inbox: 'place', delete: 'bin', deleteWins: true }],
];

const rule = smallRule.map((one): typeof one => ({ ...one, link: 'always' }));

/** A chain, and what has become of it: some rules changed, switched, moved, gone, and new. */
const pairs = fc
  .record({
    rules: fc.array(rule, { minLength: 1, maxLength: 5 }),
    others: fc.array(rule, { minLength: 5, maxLength: 5 }),
    fates: fc.array(fc.constantFrom('kept', 'kept', 'changed', 'switched', 'gone'), { minLength: 5, maxLength: 5 }),
    added: fc.array(fc.tuple(rule, fc.nat(5)), { maxLength: 2 }),
    moved: fc.option(fc.tuple(fc.nat(4), fc.nat(4))),
  })
  .map(({ rules, others, fates, added, moved }) => {
    const from = chainOf(rules);
    const entries = from.entries.flatMap((entry, at): Rule[] => {
      if (entry.kind === 'script' || fates[at] === 'gone') return [];
      if (fates[at] === 'changed') return [{ ...entry, ...elementAt(others, at) }];
      return [fates[at] === 'switched' ? { ...entry, on: false } : entry];
    });
    if (moved && entries.length > 1) {
      const [one] = entries.splice(moved[0] % entries.length, 1);
      if (one) entries.splice(moved[1] % (entries.length + 1), 0, one);
    }
    for (const [number, [one, at]] of added.entries())
      entries.splice(at % (entries.length + 1), 0, { ...one, id: `n${number}`, name: `New ${number}` });
    return [from, { ...from, entries }] as const;
  });

const withoutIds = ({ entries }: Chain) => entries.map((entry) => ({ ...entry, id: '' }));

/** Small messages that a state drops, sends on or keeps from the inbox, as neither of the two chains does it. */
function worseUnder(state: Chain, from: Chain, to: Chain): number {
  const [now, first, last] = [state, from, to].map((chain) => smallFlow(chain).fates) as [
    ReturnType<typeof smallFlow>['fates'],
    ReturnType<typeof smallFlow>['fates'],
    ReturnType<typeof smallFlow>['fates'],
  ];
  const none = new Bitmap(now.dropped().size);
  const lost = now.dropped().without(first.dropped()).without(last.dropped());
  const inbox = (fates: typeof now) => fates.folders.get(INBOX)?.messages ?? none;
  const hidden = inbox(first).and(inbox(last)).without(inbox(now));
  const leaks = [...now.redirects].map(([address, sent]) =>
    sent.without(first.redirects.get(address) ?? none).without(last.redirects.get(address) ?? none),
  );
  return [lost, hidden, ...leaks].reduce((sum, some) => sum + some.count(), 0);
}

test.each(RUNS)('steps lead to the other chain, few of them, and no message is lost on the way: %s', (_, profile) => {
  expect(contradictionsIn(profile)).toEqual([]);
  let [safe, all] = [0, 0];
  fc.assert(
    fc.property(
      pairs.filter(([from, to]) => unfitFor(from).length === 0 && unfitFor(to).length === 0),
      ([before, after]) => {
        const [from, to] = [withProfile(before, profile), withProfile(after, profile)];
        const { steps, isSafe } = stepsBetween(from, to);
        const reached = steps.at(-1)?.chain ?? from;
        if (profile.order === 'listed' && steps.length > 0 && profile.ending === 'rule')
          expect(withoutIds(reached)).toEqual(withoutIds(to));
        expect(compareChains(reached, to).verdict).not.toBe('different');
        all++;
        if (!isSafe) return;
        safe++;
        for (const { chain } of steps.slice(0, -1)) expect(worseUnder(chain, from, to)).toBe(0);
        // One for each rule that differs, and one for each that is moved.
        const moves = steps.filter((step) => step.do === 'move').length;
        if (profile.order === 'none') expect(moves).toBe(0);
        const there = new Map(to.entries.map((entry) => [entry.name, entry]));
        const differing = from.entries.filter(
          ({ name, ...entry }) => !isSame(there.get(name), { name, ...entry }),
        ).length;
        const names = new Set(from.entries.map(({ name }) => name));
        const added = to.entries.filter(({ name }) => !names.has(name)).length;
        expect(steps.length).toBeLessThanOrEqual(differing + added + moves);
      },
    ),
    { numRuns: PAIRS },
  );
  expect(safe).toBeGreaterThan(all / 2);
});

test('where no order is safe, the rules concerned are switched off first', () => {
  const leaf = (key: string): Rule['tests'] => ({
    kind: 'leaf',
    test: { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap', keys: [key] },
  });
  const make = (first: string, second: string): Chain => ({
    closing: '',
    entries: [first, second].map((key, at) => ({
      kind: 'rule',
      id: `r${at}`,
      name: `Rule ${at}`,
      note: '',
      on: true,
      tests: leaf(key),
      unless: [],
      actions: at === 0 ? [{ action: 'keep', flags: null }] : [{ action: 'discard' }],
      ending: 'stop',
      link: 'always',
    })),
  });
  const [from, to] = [make('oak', 'oak'), make('lime', 'lime')];
  // Whichever rule is changed first, mail about one of the two words is discarded until the other is.
  const { steps, isSafe } = stepsBetween(from, to);
  expect(isSafe).toBe(false);
  expect(steps.map(({ do: does, after }) => `${does} ${after?.name} ${after?.on}`)).toEqual([
    'switch Rule 1 false',
    'switch Rule 0 false',
    'change Rule 0 false',
    'change Rule 1 false',
    'switch Rule 0 true',
    'switch Rule 1 true',
  ]);
  expect(withoutIds(steps.at(-1)?.chain ?? from)).toEqual(withoutIds(to));
});

test('rules are the same by their names, or by what they do', () => {
  const [one, other] = fc.sample(rule, { numRuns: 2, seed: 7 });
  const from = chainOf(one && other ? [one, other] : []);
  const renamed = {
    ...from,
    entries: from.entries.map((entry, at) => ({ ...entry, id: `x${at}`, name: `Other ${at}` })),
  };
  const swapped = { ...from, entries: from.entries.toReversed().map((entry, at) => ({ ...entry, id: `r${at}` })) };
  expect(stepsBetween(from, from).steps).toEqual([]);
  expect(stepsBetween(from, renamed).steps.map((step) => step.do)).toEqual(['change', 'change']);
  expect(stepsBetween(from, swapped).steps.map((step) => step.do)).toEqual(['move']);
});
