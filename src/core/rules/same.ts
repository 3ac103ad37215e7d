import equal from 'fast-deep-equal';
import { tidyNote } from './marks';
import type { ChainEntry } from './rule';

/** Whether two pieces of plain data are equal, whatever the order of their fields. */
export const isSame = (a: unknown, b: unknown): boolean => equal(a, b);

/** Whether two entries are equal, ignoring ids, line ends of their text and spaces around lines of notes. */
export function sameEntry(a: ChainEntry, b: ChainEntry): boolean {
  return a.name === b.name && isSame(words(a), words(b));
}

function words(entry: ChainEntry): ChainEntry {
  const alike = { ...entry, id: '', note: tidyNote(entry.note) };
  return alike.kind === 'rule' ? alike : { ...alike, text: alike.text.replace(/\r\n?/g, '\n') };
}
