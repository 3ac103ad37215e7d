import { inContext } from '../rules/context';
import { isFurther } from '../rules/further-action-nodes';
import type { FurtherAction } from '../rules/further-actions';
import { wordsOfAction } from '../rules/nodes';
import { type Action, type Chain, type ChainEntry, conditionOf, leavesOf, type TestTree } from '../rules/rule';
import { blockSteps, type Step } from '../rules/statements';
import type { Atom, ScriptAtom } from './atoms';

/** The atom of a block or an action that only the interpreter can run. */
export const scriptAtom = (text: string, requires: readonly string[], before: string | undefined): ScriptAtom => {
  return { test: 'script', text, requires, ...(before === undefined ? {} : { before }) };
};

/** The same of an action alone. */
export const actionAtom = (action: Action & FurtherAction): ScriptAtom =>
  scriptAtom(wordsOfAction(action), [], action.before);

/** All atoms that a chain needs, rules that are off included, so that switching one on costs no text. */
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
