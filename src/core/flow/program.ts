import { inContext } from '../rules/context';
import { isFurther } from '../rules/further-action-nodes';
import type { FurtherAction } from '../rules/further-actions';
import { wordsOfAction } from '../rules/nodes';
import {
  type Action,
  type Chain,
  type ChainEntry,
  conditionOf,
  type LeafTest,
  leavesOf,
  type Rule,
  type TestTree,
} from '../rules/rule';
import { blockSteps, type Step } from '../rules/statements';
import { type Atom, atomKey, type ScriptAtom } from './atoms';
import type { Bitmap } from './bitmap';
import { type AtomBitmaps, anyHolds, type FlagState, holds, trafficOf } from './conditions';

/** The atom of a block or action that only the interpreter can run. */
export const scriptAtom = (text: string, requires: readonly string[], before: string | undefined): ScriptAtom => {
  return { test: 'script', text, requires, ...(before === undefined ? {} : { before }) };
};

/** The atom of an action. */
export const actionAtom = (action: Action & FurtherAction): ScriptAtom =>
  scriptAtom(wordsOfAction(action), [], action.before);

/** All atoms of a chain, including rules that are off, so that switching one on needs no evaluation. */
export function atomsOf(chain: Chain): Atom[] {
  return inContext(chain).entries.flatMap(entryAtoms);
}

function entryAtoms(entry: ChainEntry): Atom[] {
  if (entry.kind === 'rule') return [...treeAtoms(conditionOf(entry)), ...entry.actions.flatMap(actionAtoms)];
  const steps = blockSteps(entry);
  return steps === null ? [scriptAtom(entry.text, entry.requires, entry.before)] : stepAtoms(steps);
}

function stepAtoms(steps: readonly Step[]): Atom[] {
  return steps.flatMap((step) => {
    if (step.kind === 'stop') return [];
    if (step.kind === 'act') return actionAtoms(step.action);
    return step.branches.flatMap((branch) => [...treeAtoms(branch.condition), ...stepAtoms(branch.body)]);
  });
}

const treeAtoms = (tree: TestTree): Atom[] =>
  leavesOf(tree).filter((leaf): leaf is Exclude<typeof leaf, { test: 'hasflag' }> => leaf.test !== 'hasflag');

const actionAtoms = (action: Action): Atom[] => (isFurther(action) ? [actionAtom(action)] : []);

/** The messages that match a rule, of those that take part, reached or not. */
export interface Held {
  /** The tests match and no exception does. */
  readonly held: Bitmap;
  /** Its tests and an exception match; null for a rule without exceptions. */
  readonly exempt: Bitmap | null;
}

interface Known extends Held {
  /** The bitmaps of the leaf tests it was computed from. */
  readonly leaves: readonly Bitmap[];
}

/** Matching does not depend on the rule's position or other rules, so it is cached. */
const known = new WeakMap<Rule, Known>();

/** Computes the messages that match a rule; again for each chain only if its tests read flags. */
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
  if (rule.unless.length === 0) return { held: tests.compact(), exempt: null };
  const exceptions = anyHolds(rule.unless, atoms, state);
  return { held: tests.without(exceptions).compact(), exempt: tests.and(exceptions).compact() };
}
