import { type Destination, type Harm, harmOf, newRedirects } from '../fates/destination';
import { Bitmap } from '../flow/bitmap';
import type { Edit } from '../rules/edit';
import type { Chain, ChainEntry } from '../rules/rule';
import { isSame } from '../rules/same';
import { agreement, isAct } from './filing';
import type { Placed, Trials } from './trials';
import type { Workshop } from './workshop';

/** What a change of the chain does to the mail, as a sample of it or all of it tells. */
export interface Effect {
  /** Messages that end elsewhere. */
  readonly moved: readonly Moved[];
  /** How many messages these are. */
  readonly count: number;
  /** How many messages the user's own acts want moved so, and how many lie where they would leave. */
  readonly agree: number;
  readonly against: number;
  readonly agreeing: readonly number[];
  readonly opposing: readonly number[];
  /** The sum of the evidence of where mail lies: positive for the change. */
  readonly evidence: number;
}

export interface Moved {
  /** Of the message in the sample; its number if all mail is looked at. */
  readonly index: number;
  readonly before: Placed;
  readonly after: Placed;
  /** Equal for messages that go the same way, copies aside. */
  readonly way: string;
  readonly harm: Harm | null;
  /** What the place where the user keeps it tells: positive for the move. */
  readonly gain: number;
}

/**
 * Mail that lies where the rules put it may only not have been moved: where none was moved, it tells no more than so
 * many messages do.
 */
const UNMOVED = 3;

/** What the change from one chain to another does; `edits` lead from the one to the other. */
export function effectOf(workshop: Workshop, [before, after]: readonly [Chain, Chain], edits: readonly Edit[]): Effect {
  const { trials, keptIn, weightOf, copies } = workshop;
  const among = concerned(trials, [before, after], edits);
  const moved: Moved[] = [];
  const [agreeing, opposing]: [number[], number[]] = [[], []];
  let [count, agree, against] = [0, 0, 0];
  for (const index of trials.changed(before, after, among ?? undefined)) {
    const [from, to] = [trials.placeOf(before, index), trials.placeOf(after, index)];
    if (from === to) continue;
    const weight = weightOf(index);
    count += weight;
    const kept = keptIn(index);
    const gain = kept ? agreement(to.destination, kept, copies) - agreement(from.destination, kept, copies) : 0;
    if (kept && gain > 0 && isAct(kept)) {
      agree += weight;
      agreeing.push(index);
    }
    if (gain < 0) {
      against += weight;
      opposing.push(index);
    }
    const { way, harm } = wayOf(from, to, workshop);
    moved.push({ index, before: from, after: to, way, harm, gain: gain * weight * (kept?.weight ?? 0) });
  }
  const counts = { count: Math.round(count), agree: Math.round(agree), against: Math.round(against) };
  return { moved, ...counts, agreeing, opposing, evidence: evidenceOf(moved) };
}

/** The evidence of where mail lies, for and against moving it. */
export function evidenceOf(moved: readonly Moved[]): number {
  let [moving, staying] = [0, 0];
  for (const { gain } of moved) {
    if (gain > 0) moving += gain;
    else staying -= gain;
  }
  return moving - Math.min(staying, Math.max(UNMOVED, 2 * moving));
}

/** Whether a message that moves is redirected to an address that did not get it before. */
export const sendsCopies = ({ moved }: Pick<Effect, 'moved'>): boolean =>
  moved.some(({ before, after }) => newRedirects(before.destination, after.destination).length > 0);

type Way = Pick<Moved, 'way' | 'harm'>;

/** By workshop and by the two places. */
const ways = new WeakMap<Workshop, WeakMap<Placed, WeakMap<Placed, Way>>>();

function wayOf(from: Placed, to: Placed, workshop: Workshop): Way {
  const own = ways.get(workshop) ?? new WeakMap<Placed, WeakMap<Placed, Way>>();
  ways.set(workshop, own);
  const leading = own.get(from) ?? new WeakMap<Placed, Way>();
  own.set(from, leading);
  const known = leading.get(to);
  if (known) return known;
  const { copies, ownDomains } = workshop;
  const [before, after] = [from.destination, to.destination];
  const way = `${mainOf(before, copies)} ${mainOf(after, copies)}`;
  const made = { way, harm: harmOf(before, after, ownDomains) };
  leading.set(to, made);
  return made;
}

/** The folders without those of copies, as a text. */
const mainOf = ({ folders, rejected }: Destination, copies: ReadonlySet<string>): string =>
  JSON.stringify([folders.filter((folder) => !copies.has(folder)), rejected]);

/**
 * The messages that an entry which the edits change, add, remove or move matches before or after; of an entry that only
 * matches other mail than before, those of which it does: no others can have another fate. Null if that cannot be told.
 */
export function concerned(
  trials: Trials,
  [before, after]: readonly [Chain, Chain],
  edits: readonly Edit[],
): Bitmap | null {
  trials.prepare([before, after]);
  const [old, fresh] = [entriesOf(before), entriesOf(after)];
  const moved = new Set(edits.flatMap((edit) => (edit.kind === 'move' ? edit.ids : [])));
  const inPlace = new Set(edits.flatMap((edit) => maybeRewritten(edit) ?? []).filter((id) => !moved.has(id)));
  const gone = before.entries.filter((entry) => !fresh.has(entry) || moved.has(entry.id));
  const come = new Map(after.entries.flatMap((entry) => (old.has(entry) ? [] : [[entry.id, entry] as const])));
  const among = new Bitmap(trials.count);
  for (const entry of gone) {
    const other = come.get(entry.id);
    const [was, is] = [trials.concerned(entry), other ? trials.concerned(other) : null];
    if (!was || (other && !is)) return null;
    come.delete(entry.id);
    const differs = is && other && inPlace.has(entry.id) && doAlike(entry, other) ? was.difference(is) : was;
    among.addEvery(differs);
    if (is && differs === was) among.addEvery(is);
  }
  for (const entry of come.values()) {
    const some = trials.concerned(entry);
    if (!some) return null;
    among.addEvery(some);
  }
  return among;
}

/** The id of the one entry that an edit rewrites in its place. */
function maybeRewritten(edit: Edit): string | null {
  if (edit.kind !== 'rewrite') return null;
  const [[old, ...olds], [made, ...more]] = [edit.before, edit.after];
  return old && made && old.id === made.id && olds.length + more.length === 0 ? old.id : null;
}

/** Whether two versions of a rule do the same with the messages that they match. */
const doAlike = (a: ChainEntry, b: ChainEntry): boolean =>
  a.kind === 'rule' &&
  b.kind === 'rule' &&
  a.on === b.on &&
  a.link === b.link &&
  a.ending === b.ending &&
  isSame(a.actions, b.actions);

const entrySets = new WeakMap<Chain, ReadonlySet<ChainEntry>>();

function entriesOf(chain: Chain): ReadonlySet<ChainEntry> {
  const known = entrySets.get(chain) ?? new Set(chain.entries);
  entrySets.set(chain, known);
  return known;
}
