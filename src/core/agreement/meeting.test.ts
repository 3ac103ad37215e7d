import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Knowledge } from '../reason/knowledge';
import { COMPARISON } from '../reason/solve/assumptions';
import { FALSE } from '../reason/solve/formula';
import { chainOf, smallRule } from './small-chains';

test('what the forms of two conditions tell is what the solver finds', () => {
  const counts = { possible: 0, exclusive: 0, ask: 0 };
  const knowledge = new Knowledge();
  fc.assert(
    fc.property(fc.array(smallRule, { minLength: 2, maxLength: 5 }), (rules) => {
      const { known, chains } = knowledge.lower(chainOf(rules));
      const conditions = (chains[0]?.entries ?? []).map(({ condition }) => condition);
      const isPossible = (...together: readonly number[]) =>
        known.solver.possible(together, knowledge.budget, COMPARISON).answer === 'possible';
      const alone = conditions.filter((condition) => condition !== FALSE && isPossible(condition));
      for (const [at, a] of alone.entries()) {
        for (const b of alone.slice(at + 1)) {
          const settled = known.meetings.settle(a, b);
          counts[settled]++;
          if (settled !== 'ask') expect(isPossible(a, b)).toBe(settled === 'possible');
        }
      }
    }),
    { numRuns: 1500 },
  );
  expect(Math.min(counts.possible, counts.exclusive)).toBeGreaterThan(50);
});
