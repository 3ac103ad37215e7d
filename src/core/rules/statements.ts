import { REFERENCE } from '../sieve/interpret/run';
import { parse } from '../sieve/parse';
import { eachString, mapStrings, UNSET_NAME } from '../sieve/strings';
import type { CommandNode, Statement } from '../sieve/tree';
import { type Effects, meets, readsMatchBefore, refers, statementEffects, variable } from './effects';
import { readAction, readTest } from './nodes';
import type { Action, ScriptBlock, TestTree } from './rule';

/** Commands, with an `if` and all its branches as one group. */
export function groupsOf(statements: readonly Statement[]): (readonly Statement[])[] {
  const groups: Statement[][] = [];
  for (const statement of statements) {
    const last = groups[groups.length - 1];
    const head = last?.[0];
    const branch = statement.kind === 'command' && (statement.name === 'elsif' || statement.name === 'else');
    if (branch && head?.kind === 'command' && head.name === 'if') last?.push(statement);
    else groups.push([statement]);
  }
  return groups;
}

/** How a script uses variables (RFC 5229), by group. */
export interface VariableUses {
  /**
   * Why rules cannot express a group: it sets or reads variables, or sets match variables (section 3.2) that a later
   * group reads, which depends on the exact order of tests. Null for all other groups.
   */
  readonly reasons: readonly (string | null)[];
  /**
   * Undoes `literal`, which protects strings from being read as references by a variable that is never set and so is
   * empty (section 3). The same group if there is none. Other variables that are never set are left alone: they may be
   * slips.
   */
  readonly plain: (group: readonly Statement[]) => readonly Statement[];
}

export function variableUses(groups: readonly (readonly Statement[])[]): VariableUses {
  const effects = groups.map((group) => statementEffects(group, true));
  const written = new Set(effects.flatMap(({ writes }) => [...writes]).filter(isVariable));
  const isUnset = (name: string) => UNSET_NAME.test(name) && !meets(new Set([variable(name)]), written);
  const plain = (group: readonly Statement[]) => {
    if (!refers(group)) return group;
    return group.map((statement) => mapStrings(statement, (text) => withoutReferences(text, isUnset)));
  };
  const lastRead = groups.findLastIndex((group) => readsMatchBefore(group, false));
  const reasons = groups.map((group, at) => {
    const { reads, writes } = effects[at] ?? NONE;
    const uses = [...writes].some(isVariable) || meets(new Set([...reads].filter(isVariable)), written);
    if (uses || refersBeside(group, isUnset)) return 'it uses variables';
    return at < lastRead && writes.has('match') ? 'it sets match variables that a later command reads' : null;
  });
  return { reasons, plain };
}

const isVariable = (token: string): boolean => token.startsWith('variable ');

const NONE: Effects = { reads: new Set(), writes: new Set() };

const withoutReferences = (text: string, isUnset: (name: string) => boolean): string =>
  text.replace(REFERENCE, (whole, name: string) => (isUnset(name) ? '' : whole));

/** Whether strings of a group refer to variables other than unset ones. */
function refersBeside(group: readonly Statement[], isUnset: (name: string) => boolean): boolean {
  let found = false;
  eachString(group, ({ value }) => {
    found ||= [...value.matchAll(REFERENCE)].some(([, name = '']) => !isUnset(name));
  });
  return found;
}

/** Tests that must all be true. */
export type Guard = readonly TestTree[];

/**
 * Whether nested branches can be split into rules: a condition is repeated for each rule it governs, which is
 * equivalent only while it cannot change in between. Only flags can change during a run.
 */
export function ruleable(branches: readonly CommandNode[]): boolean {
  const { reads, writes } = statementEffects(branches, false);
  return !(reads.has('flags') && writes.has('flags'));
}

/** Simple script blocks as conditions, actions and stops. */
export type Step =
  | { readonly kind: 'choose'; readonly branches: readonly Branch[] }
  | { readonly kind: 'act'; readonly action: Action }
  | { readonly kind: 'stop' };

export interface Branch {
  readonly condition: TestTree;
  readonly body: readonly Step[];
}

/**
 * The steps of a script block; empty if it is not understood, null if only the interpreter can run it: it uses
 * variables, loops, edits headers, remembers messages, or depends on what earlier entries changed.
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
