import { type LeafTest, leavesOf, type Rule } from '../rules/rule';
import { atomKey } from './atoms';
import type { Bitmap } from './bitmap';
import { type AtomBitmaps, anyHolds, type FlagState, holds, trafficOf } from './conditions';

/** For which messages that take part a rule holds, whether or not they reach it. */
export interface Held {
  /** Its tests hold and no exception does. */
  readonly held: Bitmap;
  readonly places: Uint32Array;
  /** Its tests hold and an exception does too; null for a rule without exceptions. */
  readonly exempt: Bitmap | null;
}

interface Known extends Held {
  /** The bitmaps of the leaf tests it was worked out from. */
  readonly leaves: readonly Bitmap[];
}

/** What a rule holds for changes neither by its place nor by other rules: it is worked out once. */
const known = new WeakMap<Rule, Known>();

/** Works out for which messages a rule holds; anew only where its tests look at flags, which other rules set. */
export function heldBy(rule: Rule, atoms: AtomBitmaps, state: FlagState): Held {
  const tests = [...leavesOf(rule.tests), ...rule.unless.flatMap(leavesOf)];
  if (tests.some(({ test }) => test === 'hasflag')) return workOut(rule, atoms, state);
  const traffic = trafficOf(atoms);
  const leaves = [...tests.map((test) => bitmapOf(test, atoms)), ...(traffic ? [traffic] : [])];
  const before = known.get(rule);
  if (
    before?.held.size === state.count &&
    before.leaves.length === leaves.length &&
    before.leaves.every((leaf, at) => leaf === leaves[at])
  )
    return before;
  const now = { ...workOut(rule, atoms, state), leaves };
  known.set(rule, now);
  return now;
}

function bitmapOf(test: LeafTest, atoms: AtomBitmaps): Bitmap {
  const bitmap = test.test === 'hasflag' ? undefined : atoms.get(atomKey(test));
  if (!bitmap) throw new Error(`the test ${JSON.stringify(test)} was never evaluated`);
  return bitmap;
}

function workOut(rule: Rule, atoms: AtomBitmaps, state: FlagState): Held {
  const traffic = trafficOf(atoms);
  const all = holds(rule.tests, atoms, state);
  const tests = traffic ? all.and(traffic) : all;
  if (rule.unless.length === 0) return { held: tests, places: tests.places(), exempt: null };
  const exceptions = anyHolds(rule.unless, atoms, state);
  const held = tests.without(exceptions);
  return { held, places: held.places(), exempt: tests.and(exceptions) };
}
