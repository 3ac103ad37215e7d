import { type Destination, destinationKey } from '../fates/destination';
import type { Chain } from '../rules/rule';
import { type Candidate, keptAt } from './candidates';
import type { Workshop } from './workshop';

/** A message of which only the user can say where it belongs. */
export interface Question {
  /** In the sample. */
  readonly index: number;
  readonly options: readonly Option[];
  /** Keys of the findings that the answer settles. */
  readonly findings: readonly string[];
  readonly worth: number;
}

export interface Option {
  readonly destination: Destination;
  readonly asNow: boolean;
  /** Messages that would go there with it. */
  readonly count: number;
  /** The change behind it; null for as it is now, and for where the user keeps the message. */
  readonly candidate: Candidate | null;
  /** Keys of the findings that the answer resolves, or shows to be meant. */
  readonly findings: readonly string[];
}

const MOST_OPTIONS = 4;
/** What is less likely is not offered beside what is more. */
const LEAST_CHANCE = 0.02;

/** The questions that settle most, each independent of those before; none about what a skipped message would tell. */
export function questionsFor(
  chain: Chain,
  candidates: readonly Candidate[],
  workshop: Workshop,
  { asked, skipped }: { readonly asked: ReadonlySet<number>; readonly skipped: ReadonlySet<number> },
  most: number,
): Question[] {
  const worthOf = ({ chance, weight }: Candidate) => chance * weight;
  const questions: Question[] = [];
  const settled = new Set(candidates.filter(({ effect }) => effect.moved.some(({ index }) => skipped.has(index))));
  for (const candidate of candidates.toSorted((a, b) => worthOf(b) - worthOf(a))) {
    if (questions.length >= most) break;
    const index = settled.has(candidate) ? null : typicalOf(candidate, workshop, asked);
    if (index === null) continue;
    const moving = candidates.filter(({ effect }) => effect.moved.some((one) => one.index === index));
    for (const one of moving) settled.add(one);
    questions.push({
      index,
      options: optionsFor(chain, index, moving, workshop),
      findings: findingsOf(moving),
      worth: Math.max(...moving.map(worthOf)),
    });
  }
  return questions;
}

const findingsOf = (candidates: readonly Candidate[]): string[] => [
  ...new Set(candidates.flatMap(({ findings }) => findings)),
];

const goesTo = ({ effect }: Candidate, index: number): string | undefined =>
  effect.moved.find((one) => one.index === index)?.after.key;

/** Where the likeliest changes would bring a message, where the user keeps it, and where it ends now. */
function optionsFor(chain: Chain, index: number, moving: readonly Candidate[], workshop: Workshop): Option[] {
  const { trials, keptIn, weightOf } = workshop;
  const now = trials.placeOf(chain, index);
  const options = new Map<string, Option>();
  const [likeliest] = moving.toSorted((a, b) => b.chance - a.chance);
  for (const candidate of moving.toSorted((a, b) => b.chance - a.chance)) {
    if (candidate !== likeliest && candidate.chance < LEAST_CHANCE) break;
    const moved = candidate.effect.moved.find((one) => one.index === index);
    if (!moved || options.has(moved.after.key)) continue;
    const those = candidate.effect.moved.filter(({ way }) => way === moved.way);
    const count = Math.round(those.reduce((sum, one) => sum + weightOf(one.index), 0));
    const findings = findingsOf(moving.filter((one) => goesTo(one, index) === moved.after.key));
    options.set(moved.after.key, { destination: moved.after.destination, asNow: false, count, candidate, findings });
  }
  const likely = [...options.values()].slice(0, MOST_OPTIONS - 1);
  const count = likely[0]?.count ?? 1;
  const here: Option = {
    destination: now.destination,
    asNow: true,
    count,
    candidate: null,
    findings: findingsOf(moving),
  };
  const kept = keptIn(index);
  const filed = kept && keptAt(kept.folder, now.destination, workshop);
  const isNew = filed && !options.has(destinationKey(filed)) && destinationKey(filed) !== now.key;
  if (filed && isNew && likely.length < MOST_OPTIONS - 1) {
    likely.push({ destination: filed, asNow: false, count: 1, candidate: null, findings: [] });
  }
  return [...likely, here];
}

/** The newest message of the sender with most of the messages that go the way most of them go. */
function typicalOf(
  { effect }: Candidate,
  { messageOf, weightOf }: Workshop,
  asked: ReadonlySet<number>,
): number | null {
  const way = mostOf(effect.moved.map((one) => [one.way, weightOf(one.index)]));
  const those = effect.moved.filter((one) => one.way === way && !asked.has(one.index)).map(({ index }) => index);
  const sender = mostOf(those.map((index) => [messageOf(index).sender, weightOf(index)]));
  return those.findLast((index) => messageOf(index).sender === sender) ?? null;
}

function mostOf(weighed: readonly (readonly [name: string, weight: number])[]): string | null {
  const sums = new Map<string, number>();
  for (const [name, weight] of weighed) sums.set(name, (sums.get(name) ?? 0) + weight);
  let most: string | null = null;
  for (const [name, sum] of sums) if (most === null || sum > (sums.get(most) ?? 0)) most = name;
  return most;
}
