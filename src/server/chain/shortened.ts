import type { ChainEntry } from '../../core/rules/rule';
import { sentenceOf } from '../../core/rules/sentence';

/** Shortens a text for a page: with thousands of keys it would add megabytes to every page that shows it. */
export function shown(text: string, most: number): string {
  if (text.length <= most) return text;
  const end = text.lastIndexOf(' ', most);
  const kept = text.slice(0, end > most / 2 ? end : most);
  return `${kept} … (${(text.length - kept.length).toLocaleString('en')} characters more)`;
}

const SENTENCE = 2000;
const sentences = new WeakMap<ChainEntry, string>();

/** The sentence of an entry as pages show it; cached per entry. */
export function shownSentence(entry: ChainEntry): string {
  const known = sentences.get(entry) ?? shown(sentenceOf(entry), SENTENCE);
  sentences.set(entry, known);
  return known;
}
