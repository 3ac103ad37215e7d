import type { ChainEntry } from './rule';

/**
 * In a text that is edited, a rule that is off stands under the name "off: NAME"; Sieve itself has no way to say so. Names
 * that begin like a mark get the mark "on: ", so that every name can be told.
 */
export function markedName({ name, on }: Pick<ChainEntry, 'name' | 'on'>): string {
  if (!on) return `off: ${name}`;
  return /^(on|off):/i.test(name) ? `on: ${name}` : name;
}

/** What `markedName` has made, taken apart again. */
export function unmarked(name: string): Pick<ChainEntry, 'name' | 'on'> {
  const mark = /^(on|off):\s*(.+)$/i.exec(name);
  if (!mark) return { name, on: true };
  return { name: mark[2] as string, on: (mark[1] as string).toLowerCase() === 'on' };
}

/** How a comment begins that an export has made: the sentence of a rule, or a rule that only stands there to be read. */
export const TOLD_MARK = '» ';

/** Whether a comment is told by the rules themselves, and so is no note of theirs. */
export const isTold = (comment: string): boolean => comment.startsWith(TOLD_MARK.trim());
