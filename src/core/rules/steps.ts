import { parse } from '../sieve/parse';
import type { CommandNode, Statement } from '../sieve/tree';
import { readAction, readTest } from './nodes';
import type { Action, ScriptBlock, TestTree } from './rule';

/** What script blocks come down to where they are plain: conditions, actions and stops, as rules have them. */
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
 * variables, loops, edits headers, remembers, or depends on what earlier entries have changed.
 */
export function blockSteps({ text, works, requires, before }: ScriptBlock): readonly Step[] | null {
  if (!works) return [];
  return requires.length > 0 || before !== undefined ? null : statementSteps(parse(text).script.commands);
}

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
