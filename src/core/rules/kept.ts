import type { Statement } from '../sieve/tree';
import { readsMatchBefore, refers, statementEffects } from './effects';

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

/**
 * Why a group cannot be said by rules, where the script uses variables: it sets or reads them, or it sets match variables (RFC
 * 5229 section 3.2) that a later group reads, which depends on the very order of its tests. Null for all other groups.
 */
export function variableUses(groups: readonly (readonly Statement[])[]): (string | null)[] {
  const lastRead = groups.findLastIndex((group) => readsMatchBefore(group, false));
  return groups.map((group, at) => {
    const { reads, writes } = statementEffects(group, true);
    const isVariable = (token: string) => token.startsWith('variable ');
    if (refers(group) || [...reads, ...writes].some(isVariable)) return 'it uses variables';
    return at < lastRead && writes.has('match') ? 'it sets match variables that are read later' : null;
  });
}
