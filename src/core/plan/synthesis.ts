import { type Destination, destinationKey, isDiscarded } from '../fates/destination';
import type { Chain } from '../rules/rule';
import { type Change, changesFor, type Subject } from './changes';
import { chainFeatures, ownFeatures, tellingFeatures } from './features';
import { silencedIn } from './silenced';
import { type Effect, effectOf, evidenceOf } from './weigh';
import type { Workshop } from './workshop';

/** Where the user wants a message to end. */
export interface Wish {
  /** In the sample. */
  readonly index: number;
  readonly destination: Destination;
}

/** A change that answers a wish, with what it does. */
export interface Proposal extends Change {
  readonly effect: Effect;
  /** How likely it is what the user means; comparable among the proposals for one wish. */
  readonly score: number;
}

/** The most changes that are combined. */
const MOST_STEPS = 3;
/** How many unfinished combinations are developed further. */
const MOST_OPEN = [0, 16, 8] as const;

/**
 * The changes to the chain, up to three combined, after which a message ends where it is wanted, most likely first.
 * `others` are wishes that must be met as well; `most` is the number of changes that are weighed.
 */
export function proposalsFor(
  chain: Chain,
  wish: Wish,
  workshop: Workshop,
  others: readonly Wish[],
  most: number,
): Proposal[] {
  const weighed = reaching(chain, wish, workshop)
    .slice(0, most)
    .flatMap((change): Proposal[] => {
      if (!others.every((other) => isMet(change.chain, other, workshop))) return [];
      const effect = effectOf(workshop, [chain, change.chain], change.edits);
      return [{ ...change, effect, score: scoreOf(change, effect, wish, workshop) }];
    });
  return weighed.sort((a, b) => b.score - a.score);
}

export const isMet = (chain: Chain, { index, destination }: Wish, { trials }: Workshop): boolean =>
  trials.placeOf(chain, index).key === destinationKey(destination);

/** Changes after which the message ends where it is wanted, cheapest first. */
function reaching(chain: Chain, { index, destination: wanted }: Wish, workshop: Workshop): Change[] {
  const { trials, messageOf, keptIn } = workshop;
  const now = trials.placeOf(chain, index).destination;
  const all = [...ownFeatures(index, workshop), ...chainFeatures(index, chain, workshop)];
  const features = tellingFeatures(all, now, wanted, chain, workshop);
  const silenced = silencedIn(trials.flow(chain));
  const subject: Subject = { index, wanted, features, keptIn, silenced, senderOf: (one) => messageOf(one).sender };
  const few: Subject = {
    ...subject,
    features: features.filter(({ by }) => by !== 'both' && by !== 'test').slice(0, 4),
  };
  const goal = destinationKey(wanted);
  const found: Change[] = [];
  let open: Change[] = [{ edits: [], chain, cost: 0 }];
  for (let step = 1; step <= MOST_STEPS && open.length > 0 && found.length === 0; step++) {
    const next: Change[] = [];
    for (const start of open) {
      const made = changesFor(start.chain, step === 1 ? subject : few, trials);
      trials.prepare(made.map((change) => change.chain));
      const before = trials.fateOf(start.chain, index);
      const far = distance(trials.placeOf(start.chain, index).destination, wanted);
      for (const { edits, chain: after, cost } of made) {
        const change = { edits: [...start.edits, ...edits], chain: after, cost: start.cost + cost };
        const place = trials.placeOf(after, index);
        if (place.key === goal) found.push(change);
        else if (trials.fateOf(after, index) !== before && distance(place.destination, wanted) <= far)
          next.push(change);
      }
    }
    open = next.sort((a, b) => a.cost - b.cost).slice(0, MOST_OPEN[step] ?? 0);
  }
  return found.sort((a, b) => a.cost - b.cost);
}

/** How many parts of two destinations differ. */
function distance(a: Destination, b: Destination): number {
  const [mine, theirs] = [partsOf(a), partsOf(b)];
  return mine.filter((one) => !theirs.includes(one)).length + theirs.filter((one) => !mine.includes(one)).length;
}

const partsOf = ({ folders, redirects, rejected }: Destination): string[] => [
  ...folders.map((one) => `folder ${one}`),
  ...redirects.map((one) => `redirect ${one}`),
  ...(rejected ? ['rejected'] : []),
];

/** What a message that the change loses, sends away or takes out of the inbox unasked takes off its score. */
const HARM = { lost: 4, leaked: 4, copied: 0.5, hidden: 0.15 } as const;

/** How much the evidence of other mail speaks for a change. */
const ELSEWHERE = 0.2;
/** What a message that goes another way than the one asked about takes off. */
const UNASKED = 0.05;

/**
 * The evidence of where mail lies, less what the change costs; among equals the one that treats more messages the same
 * way, and fewer another way.
 */
function scoreOf({ cost }: Change, { moved }: Effect, wish: Wish, { weightOf }: Workshop): number {
  const way = moved.find(({ index }) => index === wish.index)?.way ?? '';
  const isLosing = isDiscarded(wish.destination);
  let [same, others, harm] = [0, 0, 0];
  for (const one of moved) {
    const weight = weightOf(one.index);
    if (one.way === way) same += weight;
    else others += weight;
    if (one.harm === null || (one.way === way && one.harm === 'hidden')) continue;
    harm += HARM[one.harm] * weight * (one.way === way && isLosing ? 0.1 : 1);
  }
  // That other mail lies elsewhere too is another matter: it may speak against the change, and hardly for it.
  const [asked, unasked] = [true, false].map((isSame) =>
    evidenceOf(moved.filter((one) => (one.way === way) === isSame)),
  );
  const evidence = (asked ?? 0) + Math.min(ELSEWHERE * (unasked ?? 0), unasked ?? 0);
  return evidence - cost + 0.3 * Math.log(1 + same) - 0.6 * Math.log(1 + others) - UNASKED * others - harm;
}
