import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Knowledge } from '../reason/knowledge';
import { COMPARISON } from '../reason/solve/assumptions';
import { FALSE } from '../reason/solve/formula';
import type { Chain } from '../rules/rule';
import { PEOPLE_SCRIPTS, peopleChain } from './people-rules';
import { chainOf, smallRule } from './small-chains';

/** What the forms of two conditions tell is what the solver finds. */

type Counts = Record<'possible' | 'exclusive' | 'ask', number>;

function compare(knowledge: Knowledge, chain: Chain, counts: Counts): void {
  const { known, chains } = knowledge.lower(chain);
  const conditions = (chains[0]?.entries ?? []).map(({ condition }) => condition);
  const isPossible = (...together: readonly number[]) =>
    known.solver.possible(together, knowledge.budget, COMPARISON).answer === 'possible';
  const alone = conditions.filter((condition) => condition !== FALSE && isPossible(condition));
  for (const [at, a] of alone.entries()) {
    for (const b of alone.slice(at + 1)) {
      const settled = known.meetings.settle(a, b);
      counts[settled]++;
      if (settled !== 'ask') expect([settled, isPossible(a, b)]).toEqual([settled, settled === 'possible']);
    }
  }
}

test('of small rules', () => {
  const counts = { possible: 0, exclusive: 0, ask: 0 };
  const knowledge = new Knowledge();
  const rules = fc.array(smallRule, { minLength: 2, maxLength: 5 });
  fc.assert(
    fc.property(rules, (some) => compare(knowledge, chainOf(some), counts)),
    { numRuns: 1500 },
  );
  expect(Math.min(counts.possible, counts.exclusive)).toBeGreaterThan(50);
});

test('of rules as people have them, and hardly a pair needs the solver', () => {
  const counts = { possible: 0, exclusive: 0, ask: 0 };
  for (const script of PEOPLE_SCRIPTS) compare(new Knowledge(), peopleChain(script), counts);
  if (process.env.SHOW) console.log(counts);
  expect(Math.min(counts.possible, counts.exclusive)).toBeGreaterThan(500);
  expect(counts.ask / (counts.possible + counts.exclusive + counts.ask)).toBeLessThan(0.03);
});
