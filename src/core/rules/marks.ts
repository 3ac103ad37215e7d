import { elementAt } from '../text/lookup';
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
  return { name: elementAt(mark, 2), on: elementAt(mark, 1).toLowerCase() === 'on' };
}

/** How a comment begins that an export has made: the sentence of a rule, or a rule that only stands there to be read. */
export const TOLD_MARK = '» ';

/** A line of a note as it is written into a comment: one that begins as if an export had made it is marked with a backslash. */
export const notedLine = (line: string): string => (/^\s*\\*»/.test(line) ? `\\${line.trim()}` : line);

/** The line of a note that a comment holds; null where the comment is told by the rules themselves, and so is no note. */
export function noteOf(comment: string): string | null {
  if (comment.startsWith(TOLD_MARK.trim())) return null;
  return /^\\+»/.test(comment) ? comment.slice(1) : comment;
}

/** A note as comments can hold it: each line without blanks around it, and no empty line at either end. */
export function tidyNote(note: string): string {
  const lines = note.split(/\r\n?|\n/).map((line) => line.trim());
  return lines.join('\n').replace(/^\n+|\n+$/g, '');
}
