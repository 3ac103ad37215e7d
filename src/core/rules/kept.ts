import { REFERENCE } from '../sieve/interpret/expand';
import { UNSET_NAME } from '../sieve/literal';
import { eachString, mapStrings } from '../sieve/strings';
import type { Statement } from '../sieve/tree';
import { type Effects, meets, readsMatchBefore, refers, statementEffects, variable } from './effects';

/** Commands, an `if` with all its branches as one group. */
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

/** What a script does with variables (RFC 5229), by its groups. */
export interface VariableUses {
  /**
   * Why a group cannot be said by rules: it sets or reads variables, or it sets match variables (section 3.2) that a later group reads,
   * which depends on the very order of its tests. Null for all other groups.
   */
  readonly reasons: readonly (string | null)[];
  /**
   * A group as it was before `literal` kept its strings from being read as references: by a variable that nothing sets, which is empty
   * (section 3). The same group where there is none. Other variables that are never set are left to the user: they may be slips.
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
    return at < lastRead && writes.has('match') ? 'it sets match variables that are read later' : null;
  });
  return { reasons, plain };
}

const isVariable = (token: string): boolean => token.startsWith('variable ');

const NONE: Effects = { reads: new Set(), writes: new Set() };

const withoutReferences = (text: string, isUnset: (name: string) => boolean): string =>
  text.replace(REFERENCE, (whole, name: string) => (isUnset(name) ? '' : whole));

/** Whether strings of a group refer to anything but variables that nothing sets. */
function refersBeside(group: readonly Statement[], isUnset: (name: string) => boolean): boolean {
  let found = false;
  eachString(group, ({ value }) => {
    found ||= [...value.matchAll(REFERENCE)].some(([, name = '']) => !isUnset(name));
  });
  return found;
}
