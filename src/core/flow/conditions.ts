import type { LeafTest, TestTree } from '../rules/rule';
import { flagKeys } from '../sieve/interpret/fate';
import { compileMatcher } from '../sieve/match/matcher';
import { type Atom, atomKey } from './atoms';
import { Bitmap } from './bitmap';

/** Bitmaps of atoms by key, and under `TRAFFIC` the messages that take part. */
export type AtomBitmaps = ReadonlyMap<string, Bitmap>;

/**
 * The key of the messages that take part in flows; if absent, all do. Keys of atoms are JSON, so it differs from all of
 * them.
 */
const TRAFFIC = 'traffic';

/** The messages that run through chains; null for all. Sent mail does not: no rule saw it. */
export const trafficOf = (atoms: AtomBitmaps): Bitmap | null => atoms.get(TRAFFIC) ?? null;

/** The same atoms, with all messages taking part. */
export function withoutTraffic(atoms: AtomBitmaps): AtomBitmaps {
  const all = new Map(atoms);
  all.delete(TRAFFIC);
  return all;
}

/** The same atoms, with only these messages taking part. */
export const amongTraffic = (atoms: AtomBitmaps, traffic: Bitmap | null): AtomBitmaps =>
  traffic === null ? atoms : new Map([...atoms, [TRAFFIC, traffic]]);

/** The flags that rules have set so far, with the messages that have them. */
export interface FlagState {
  readonly count: number;
  readonly flags: ReadonlyMap<string, Bitmap>;
}

/** The messages that match a condition, given the flags set so far. */
export function holds(tree: TestTree, atoms: AtomBitmaps, state: FlagState): Bitmap {
  switch (tree.kind) {
    case 'leaf':
      return leafHolds(tree.test, atoms, state);
    case 'all':
      return allHold(tree.children, atoms, state);
    case 'any':
      return anyHolds(tree.children, atoms, state);
    case 'none':
      return anyHolds(tree.children, atoms, state).not();
    default:
      tree satisfies never;
      throw new Error('unknown tree');
  }
}

// The first union creates a new bitmap, which may then be changed in place.

function allHold(children: readonly TestTree[], atoms: AtomBitmaps, state: FlagState): Bitmap {
  const [first, second, ...more] = children;
  if (!first) return Bitmap.full(state.count);
  if (!second) return holds(first, atoms, state);
  const all = holds(first, atoms, state).and(holds(second, atoms, state));
  for (const child of more) all.keep(holds(child, atoms, state));
  return all;
}

/** The messages that match any of several conditions. */
export function anyHolds(children: readonly TestTree[], atoms: AtomBitmaps, state: FlagState): Bitmap {
  const [first, second, ...more] = children;
  if (!first) return new Bitmap(state.count);
  if (!second) return holds(first, atoms, state);
  const any = holds(first, atoms, state).or(holds(second, atoms, state));
  for (const child of more) any.addEvery(holds(child, atoms, state));
  return any;
}

function leafHolds(leaf: LeafTest, atoms: AtomBitmaps, state: FlagState): Bitmap {
  if (leaf.test === 'hasflag') return flagHolds(leaf, state);
  const bitmap = atoms.get(atomKey(leaf satisfies Atom));
  if (!bitmap) throw new Error(`the atom ${atomKey(leaf)} was never evaluated`);
  return bitmap;
}

/** RFC 5232 section 4: some set flag matches. */
function flagHolds(leaf: Extract<LeafTest, { test: 'hasflag' }>, state: FlagState): Bitmap {
  const matcher = compileMatcher(leaf.comparator, leaf.match, flagKeys(leaf.match, leaf.keys));
  let found = new Bitmap(state.count);
  for (const [flag, messages] of state.flags) if (matcher(flag)) found = found.or(messages);
  return found;
}
