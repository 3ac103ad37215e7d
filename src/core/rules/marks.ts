import { elementAt } from '../text/lookup';
import type { ChainEntry } from './rule';

/**
 * In edited text, a rule that is off is named "off: NAME", since Sieve cannot express it. Names that start like such a
 * mark get the mark "on: ", so that every name survives.
 */
export function markedName({ name, on }: Pick<ChainEntry, 'name' | 'on'>): string {
  if (!on) return `off: ${name}`;
  return /^(on|off):/i.test(name) ? `on: ${name}` : name;
}

/** The inverse of `markedName`. */
export function unmarked(name: string): Pick<ChainEntry, 'name' | 'on'> {
  const mark = /^(on|off):\s*(.+)$/i.exec(name);
  if (!mark) return { name, on: true };
  return { name: elementAt(mark, 2), on: elementAt(mark, 1).toLowerCase() === 'on' };
}

/** The beginning of comments that an export generates: the sentence of a rule, or a rule included as a comment. */
export const TOLD_MARK = '» ';

/** Escapes a line of a note that starts like a generated comment with a backslash. */
export const notedLine = (line: string): string => (/^\s*\\*»/.test(line) ? `\\${line.trim()}` : line);

/** The line of a note in a comment; null for a generated comment. */
export function noteOf(comment: string): string | null {
  if (comment.startsWith(TOLD_MARK.trim())) return null;
  return /^\\+»/.test(comment) ? comment.slice(1) : comment;
}

/** A note as comments can hold it: no spaces around lines, no empty lines at either end. */
export function tidyNote(note: string): string {
  const lines = note.split(/\r\n?|\n/).map((line) => line.trim());
  return lines.join('\n').replace(/^\n+|\n+$/g, '');
}
