import type { LeafTest, TestTree } from '../rules/rule';
import { flagKeys } from '../sieve/interpret/fate';
import { compileMatcher } from '../sieve/match/matcher';
import { type Atom, atomKey } from './atoms';
import { Bitmap } from './bitmap';

/** The bitmaps of atoms by their key, and perhaps under `TRAFFIC` the messages that run through chains. */
export type AtomBitmaps = ReadonlyMap<string, Bitmap>;

/** Messages that take part in flows, beside the atoms they are told by; all do where it is missing. Keys of atoms are JSON. */
const TRAFFIC = 'traffic';

/** The messages that run through chains; null for all. Mail that the user sent does not: no rule ever saw it. */
export const trafficOf = (atoms: AtomBitmaps): Bitmap | null => atoms.get(TRAFFIC) ?? null;

/** The same atoms, with all messages running through chains. */
export function withoutTraffic(atoms: AtomBitmaps): AtomBitmaps {
  const all = new Map(atoms);
  all.delete(TRAFFIC);
  return all;
}

/** The same atoms, with only these messages running through chains. */
export const amongTraffic = (atoms: AtomBitmaps, traffic: Bitmap | null): AtomBitmaps =>
  traffic === null ? atoms : new Map([...atoms, [TRAFFIC, traffic]]);

/** The flags that rules have set so far, each with the messages that carry it. */
export interface FlagState {
  readonly count: number;
  readonly flags: ReadonlyMap<string, Bitmap>;
}

/** The messages for which a condition holds, given the flags set so far. */
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

// The first two are joined into a new bitmap, which then is this function's own to change.

function allHold(children: readonly TestTree[], atoms: AtomBitmaps, state: FlagState): Bitmap {
  const [first, second, ...more] = children;
  if (!first) return Bitmap.full(state.count);
  if (!second) return holds(first, atoms, state);
  const all = holds(first, atoms, state).and(holds(second, atoms, state));
  for (const child of more) all.keep(holds(child, atoms, state));
  return all;
}

/** The messages for which some of several conditions holds. */
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

/** RFC 5232 section 4: some flag that is set matches. */
function flagHolds(leaf: Extract<LeafTest, { test: 'hasflag' }>, state: FlagState): Bitmap {
  const matcher = compileMatcher(leaf.comparator, leaf.match, flagKeys(leaf.match, leaf.keys));
  let found = new Bitmap(state.count);
  for (const [flag, messages] of state.flags) if (matcher(flag)) found = found.or(messages);
  return found;
}
