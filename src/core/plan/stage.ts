import { type Destination, destinationKey } from '../fates/destination';
import { applyEdits } from '../rules/edit';
import { rebase } from '../rules/rebase';
import type { Chain, TestTree } from '../rules/rule';
import type { Candidate } from './candidates';
import type { Answer, PlanStep } from './planned';
import { stepWords } from './step-words';
import type { Proposal, Wish } from './synthesis';
import { effectOf } from './weigh';
import type { Workshop } from './workshop';

/** What one answer changes. */
export interface Stage {
  readonly wish: Wish;
  readonly before: Chain;
  readonly after: Chain;
  /** Null if the answer is met already, or no change gives it. */
  readonly step: PlanStep | null;
  /** The change that was chosen, and others that would have given the answer too, most likely first. */
  readonly best: Proposal | null;
  readonly others: readonly Proposal[];
}

/** The messages in the scope of an answer that end where it says. */
export function likeIt({ scope, destination }: Answer, chain: Chain, { trials }: Workshop): number[] {
  if (!scope) return [];
  const key = destinationKey(destination);
  return [...trials.holding(scope).members()].filter((index) => trials.placeOf(chain, index).key === key);
}

/** A message in a scope that ends elsewhere, of those that stand for most. */
export function strayIn(
  scope: TestTree,
  destination: Destination,
  chain: Chain,
  { trials, weightOf }: Workshop,
): number | null {
  const key = destinationKey(destination);
  const strays = [...trials.holding(scope).members()].filter((index) => trials.placeOf(chain, index).key !== key);
  return strays.sort((a, b) => weightOf(b) - weightOf(a))[0] ?? null;
}

export const isSameWish = (a: Wish, b: Wish): boolean =>
  a.index === b.index && destinationKey(a.destination) === destinationKey(b.destination);

/** How much less likely than the chosen change another may be, and how many are considered. */
const MARGIN = 4;
export const MOST_OTHERS = 6;
/** How little a difference of scores tells, where the user's filing does not. */
const WARMTH = 1.5;

/** The chain as it were if one of the others had been chosen, where stored mail tells them apart. */
export function otherwise(
  { before, best, others }: Stage,
  now: Chain,
  later: readonly PlanStep[],
  workshop: Workshop,
): Candidate[] {
  if (!best) return [];
  const near = others.filter(({ score }) => score > best.score - MARGIN).slice(0, MOST_OTHERS);
  return near.flatMap((other): Candidate[] => {
    const chain = instead({ best }, other, later);
    if (!chain) return [];
    const effect = effectOf(workshop, [now, chain], [...best.edits, ...other.edits]);
    if (effect.count === 0) return [];
    const score = other.score - best.score;
    const chance = 1 / (1 + Math.exp(-score / WARMTH));
    const title = stepWords(before, other.edits);
    return [{ ...other, chain, effect, score, title, findings: [], chance, weight: effect.count }];
  });
}

/** The chain as it were with another change than the chosen one, and all later steps; null if they do not go together. */
export function instead({ best }: Pick<Stage, 'best'>, other: Proposal, later: readonly PlanStep[]): Chain | null {
  if (!best) return null;
  let [from, chain] = [best.chain, other.chain];
  for (const { edits } of later) {
    const found = rebase(from, edits, chain);
    const next = applyEdits(from, edits);
    if (!found.ok || !next.ok) return null;
    [from, chain] = [next.chain, found.chain];
  }
  return chain;
}
