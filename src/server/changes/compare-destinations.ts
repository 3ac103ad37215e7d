import { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import { type fateLine, fateView } from '../chain/destinations';

interface Move {
  readonly from: string;
  readonly to: string;
  readonly count: number;
}

/** The number of messages for each pair of destinations, largest first. */
export function movesBetween(before: Flow, after: Flow, numbers: Iterable<number>, lineOf: typeof fateLine): Move[] {
  const moves = new Map<string, { from: string; to: string; count: number }>();
  const lines = [new Map<string, string>(), new Map<string, string>()] as const;
  const lineAt = (flow: Flow, number: number, known: Map<string, string>) => {
    const fate = fateView(flow.fates.fateOf(number));
    const key = JSON.stringify(fate);
    const line = known.get(key) ?? lineOf(fate);
    known.set(key, line);
    return line;
  };
  for (const number of numbers) {
    const [from, to] = [lineAt(before, number, lines[0]), lineAt(after, number, lines[1])];
    const key = JSON.stringify([from, to]);
    const move = moves.get(key) ?? { from, to, count: 0 };
    move.count++;
    moves.set(key, move);
  }
  return [...moves.values()].sort((a, b) => b.count - a.count);
}

/** Messages that move from one destination to another, by their labels. */
export function movedBetween(before: Flow, after: Flow, from: string, to: string, lineOf: typeof fateLine): Bitmap {
  const line = (flow: Flow, number: number) => lineOf(fateView(flow.fates.fateOf(number)));
  const changed = [...after.fates.differsFrom(before.fates).members()];
  return Bitmap.of(
    after.count,
    changed.filter((number) => line(before, number) === from && line(after, number) === to),
  );
}

/** Of the messages with another fate, those that a rule acts on before or after, but not both. */
export function movedByRule(before: Flow, after: Flow, rule: string): Bitmap {
  return movingOf(before, after, rule, after.fates.differsFrom(before.fates));
}

/** The same, within a set of messages known to have another fate. */
export function movingOf(before: Flow, after: Flow, rule: string, changed: Bitmap): Bitmap {
  const firedIn = (flow: Flow) => flow.entries.find(({ entry }) => entry.id === rule)?.fired ?? flow.fates.none;
  return changed.and(firedIn(before).difference(firedIn(after)));
}

/** Messages that any rule acts on or stops. */
export function anyOf({ entries, count }: Flow, part: 'fired' | 'stopped'): Bitmap {
  const any = new Bitmap(count);
  for (const entry of entries) any.addEvery(entry[part]);
  return any;
}

/** Messages that several rules act on. */
export function firedOften({ entries, count }: Flow): Bitmap {
  const once = new Bitmap(count);
  const often = new Bitmap(count);
  for (const { fired } of entries) {
    often.addEvery(once.and(fired));
    once.addEvery(fired);
  }
  return often;
}

/** What a rule does before and after a change. */
export interface RuleParts {
  /** Messages that match it, whether or not they reach it. */
  readonly held: Bitmap;
  readonly fired: Bitmap;
  /** Messages it acts on that no rule acts on now. */
  readonly untaken: Bitmap;
  /** Messages it newly acts on, and those it no longer acts on. */
  readonly gained: Bitmap;
  readonly lost: Bitmap;
}

export function partsOfRule(before: Flow, after: Flow, id: string): RuleParts {
  const { none } = after.fates;
  const entryIn = (flow: Flow) => flow.entries.find(({ entry }) => entry.id === id);
  const [was, is] = [entryIn(before)?.fired ?? none, entryIn(after)];
  const fired = is?.fired ?? none;
  return {
    held: is?.held ?? none,
    fired,
    untaken: fired.without(anyOf(before, 'fired')),
    gained: fired.without(was),
    lost: was.without(fired),
  };
}
