import { readFile } from 'node:fs/promises';
import { join } from 'node:path';

/**
 * Keywords of a Maildir (common practice, as Dovecot writes them): the name of a message has a small letter for each, and this
 * file says which: `0 $label1` stands for `a`.
 */
export const KEYWORDS_FILE = 'dovecot-keywords';

const LETTERS = 'abcdefghijklmnopqrstuvwxyz';
/** A keyword of IMAP (RFC 9051 section 9, "flag-keyword"), and not much longer than any in use. */
const KEYWORD = /^[^\s(){%*"\\\]\p{Cc}]{1,200}$/u;

/** By letter, in lower case. */
export function readKeywords(text: string): Map<string, string> {
  const keywords = new Map<string, string>();
  for (const line of text.split('\n')) {
    const [, number, keyword = ''] = /^(\d{1,2}) (.*)$/.exec(line) ?? [];
    const letter = LETTERS[Number(number)];
    if (letter !== undefined && KEYWORD.test(keyword)) keywords.set(letter, keyword.toLowerCase());
  }
  return keywords;
}

/** Those of a Maildir at a path; none if it has no such file. */
export async function keywordsOf(maildir: string): Promise<Map<string, string>> {
  try {
    return readKeywords(await readFile(join(maildir, KEYWORDS_FILE), 'utf8'));
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return new Map();
    throw error;
  }
}

export const writtenKeywords = (keywords: ReadonlyMap<string, string>): string =>
  Array.from(keywords, ([letter, keyword]) => `${LETTERS.indexOf(letter)} ${keyword}\n`).join('');

/** The letter of a keyword, a new one if it has none yet; null if it cannot have one. */
export function letterFor(keyword: string, keywords: Map<string, string>): string | null {
  for (const [letter, known] of keywords) if (known === keyword) return letter;
  const free = [...LETTERS].find((letter) => !keywords.has(letter));
  if (free === undefined || !KEYWORD.test(keyword)) return null;
  keywords.set(free, keyword);
  return free;
}

/** The keywords that the name of a message stands for. */
export function keywordsIn(name: string, keywords: ReadonlyMap<string, string>): string[] {
  const letters = /[:;!_]2,([A-Za-z]*)$/.exec(name)?.[1] ?? '';
  return [...letters].flatMap((letter) => keywords.get(letter) ?? []);
}
