import { expect, test } from 'vitest';
import { compareChains } from '../reason/equivalence';
import { Knowledge } from '../reason/knowledge';
import { Reach } from '../reason/reach';
import type { Chain, ChainEntry } from '../rules/rule';
import { elementAt } from '../text/lookup';
import { seeded } from './corpus';
import { PEOPLE_SCRIPTS, peopleChain } from './people-rules';

/** More with CHAINS=1000 npx vitest run src/core/agreement/people-rules.test.ts. */
const CHAINS = Number(process.env.CHAINS ?? 60);

const POOL = PEOPLE_SCRIPTS.flatMap((script) => peopleChain(script).entries).filter(
  (entry) => entry.kind === 'rule' && entry.link === 'always' && entry.on,
);

/** Rules drawn from all scripts, in any order. */
function drawn(next: (below: number) => number): Chain {
  const entries = Array.from({ length: 10 + next(31) }, (_, at): ChainEntry => {
    return { ...elementAt(POOL, next(POOL.length)), id: `r${at}` };
  });
  return { entries, closing: '' };
}

test('hardly a question about chains drawn from rules as people have them stays undecided', () => {
  const next = seeded(5429);
  const rules = { asked: 0, undecided: 0 };
  const comparisons = { asked: 0, undecided: 0 };
  for (let round = 0; round < CHAINS; round++) {
    const chain = drawn(next);
    const knowledge = new Knowledge();
    const reach = new Reach(chain, knowledge);
    chain.entries.forEach((_, place) => {
      rules.asked++;
      if (reach.canFire(place).answer === 'undecided') rules.undecided++;
    });
    const at = next(chain.entries.length);
    const moved = chain.entries.toSpliced(at, 1).toSpliced(next(chain.entries.length), 0, elementAt(chain.entries, at));
    for (const entries of [chain.entries.toSpliced(at, 1), moved]) {
      comparisons.asked++;
      if (compareChains(chain, { ...chain, entries }, { knowledge }).verdict === 'undecided') comparisons.undecided++;
    }
  }
  if (process.env.SHOW) console.log(rules, comparisons);
  expect(rules.undecided).toBeLessThanOrEqual(rules.asked * 0.03);
  expect(comparisons.undecided).toBeLessThanOrEqual(comparisons.asked * 0.03);
});
