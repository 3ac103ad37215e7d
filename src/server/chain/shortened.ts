import { maybeOutline, type OutlineLine } from '../../core/rules/outline';
import type { Profile } from '../../core/rules/profile';
import type { ChainEntry } from '../../core/rules/rule';
import { sentenceOf } from '../../core/rules/sentence';

/** Shortens a text for pages: thousands of keys would add megabytes to every page that shows them. */
export function shown(text: string, most: number): string {
  if (text.length <= most) return text;
  const end = text.lastIndexOf(' ', most);
  const kept = text.slice(0, end > most / 2 ? end : most);
  return `${kept} … (${(text.length - kept.length).toLocaleString('en')} characters more)`;
}

const SENTENCE = 2000;
const sentences = new WeakMap<ChainEntry, string>();

/** The sentence of an entry as pages show it, under the profile of its chain; cached per entry. */
export function shownSentence(entry: ChainEntry, profile?: Profile): string {
  if (profile) return shown(sentenceOf(entry, profile), SENTENCE);
  const known = sentences.get(entry) ?? shown(sentenceOf(entry), SENTENCE);
  sentences.set(entry, known);
  return known;
}

/** Most lines of an outline, and characters of each. */
const LINES = 60;
const LINE = 400;

/** The outline of a rule that one sentence does not tell well; null for others. See `maybeOutline`. */
export type ShownOutline = readonly OutlineLine[] | null;

const outlines = new WeakMap<ChainEntry, { readonly lines: ShownOutline }>();

/** The outline of an entry as pages show it, under the profile of its chain; cached per entry. */
export function shownOutline(entry: ChainEntry, profile?: Profile): ShownOutline {
  if (profile) return shortened(maybeOutline(entry, profile));
  const known = outlines.get(entry) ?? { lines: shortened(maybeOutline(entry)) };
  outlines.set(entry, known);
  return known.lines;
}

function shortened(lines: ShownOutline): ShownOutline {
  const cut = lines?.map(({ depth, text }) => ({ depth, text: shown(text, LINE) })) ?? null;
  if (!cut || cut.length <= LINES) return cut;
  // The last line says what the rule does.
  const left = cut.length - LINES;
  return [...cut.slice(0, LINES - 1), { depth: 1, text: `… (${left} lines more)` }, ...cut.slice(-1)];
}
