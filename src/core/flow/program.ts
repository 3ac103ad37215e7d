import { readAction, readTest } from '../rules/nodes';
import {
  type Action,
  type Chain,
  type ChainEntry,
  conditionOf,
  leavesOf,
  type ScriptBlock,
  type TestTree,
} from '../rules/rule';
import { parse } from '../sieve/parse';
import type { CommandNode, Statement } from '../sieve/tree';
import type { Atom, ScriptAtom } from './atoms';

/** What the flow engine runs: conditions, actions and stops, the same for rules and for script blocks. */
export type Step =
  | { readonly kind: 'choose'; readonly branches: readonly Branch[] }
  | { readonly kind: 'act'; readonly action: Action }
  | { readonly kind: 'stop' };

export interface Branch {
  readonly condition: TestTree;
  readonly body: readonly Step[];
}

/**
 * The steps of a script block; empty where it does not work, null where only the interpreter can run it: it uses
 * variables, loops, edits headers, or remembers.
 */
export function blockSteps({ text, works, requires }: ScriptBlock): readonly Step[] | null {
  if (!works) return [];
  return requires.length > 0 ? null : statementSteps(parse(text).script.commands);
}

/** The atom of a block or an action that only the interpreter can run. */
export const scriptAtom = (text: string, requires: readonly string[] = []): ScriptAtom => {
  return { test: 'script', text, requires };
};

function statementSteps(statements: readonly Statement[]): Step[] | null {
  const steps: Step[] = [];
  let branches: Branch[] | null = null;
  for (const statement of statements) {
    if (statement.kind === 'unreadable' || statement.name === 'require') continue;
    if (statement.name === 'if') {
      branches = [];
      steps.push({ kind: 'choose', branches });
    }
    if (/^(if|elsif|else)$/.test(statement.name)) {
      const condition = conditionOfBranch(statement);
      const body = statementSteps(statement.block?.commands ?? []);
      if (!condition || !body) return null;
      branches?.push({ condition, body });
    } else if (statement.name === 'stop') steps.push({ kind: 'stop' });
    else {
      const action = readAction(statement);
      if (!action) return null;
      steps.push({ kind: 'act', action });
    }
  }
  return steps;
}

function conditionOfBranch(branch: CommandNode): TestTree | null {
  const test = branch.tests[0];
  return test ? readTest(test) : { kind: 'all', children: [] };
}

/** All atoms that a chain needs, rules that are off included, so that switching one on costs no text. */
export function atomsOf(chain: Chain): Atom[] {
  return chain.entries.flatMap(entryAtoms);
}

function entryAtoms(entry: ChainEntry): Atom[] {
  if (entry.kind === 'rule') return [...treeAtoms(conditionOf(entry)), ...entry.actions.flatMap(actionAtoms)];
  const steps = blockSteps(entry);
  return steps === null ? [scriptAtom(entry.text, entry.requires)] : stepAtoms(steps);
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

const actionAtoms = (action: Action): Atom[] => (action.action === 'sieve' ? [scriptAtom(action.text)] : []);
