import { tidyNote } from './marks';
import type { ChainEntry } from './rule';

/** Whether two pieces of plain data are the same, whatever the order of their fields. */
export function isSame(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const fields = Object.entries(a);
  const others = new Map(Object.entries(b));
  if (fields.length !== others.size) return false;
  return fields.every(([name, value]) => others.has(name) && isSame(value, others.get(name)));
}

/** Whether two entries say the same, whatever their ids, the line ends of their words and the blanks around lines of notes. */
export function sameEntry(a: ChainEntry, b: ChainEntry): boolean {
  return a.name === b.name && isSame(words(a), words(b));
}

function words(entry: ChainEntry): ChainEntry {
  const alike = { ...entry, id: '', note: tidyNote(entry.note) };
  return alike.kind === 'rule' ? alike : { ...alike, text: alike.text.replace(/\r\n?/g, '\n') };
}
