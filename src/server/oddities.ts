import type { MboxOddity } from '../core/mail/mbox';

/** What may be odd about a stored message; it is kept and simulated all the same. */
export type Oddity = MboxOddity | 'no-header' | 'strange-lines' | 'no-date';

export const ODDITY_WORDS: Readonly<Record<Oddity, string>> = {
  'no-separator': 'stands before the first line that begins with “From ”',
  'no-blank-line-before': 'no blank line stands before it in the file',
  'cut-off': 'the file ends in the middle of one of its lines',
  nul: 'holds NUL bytes',
  empty: 'is empty',
  'no-header': 'has no header field',
  'strange-lines': 'has lines in its header that are no fields',
  'no-date': 'has no readable date',
};

const COUNTED_WORDS: Readonly<Record<Oddity, string>> = {
  'no-separator': 'before the first line that begins with “From ”',
  'no-blank-line-before': 'without a blank line before',
  'cut-off': 'cut off in the middle of a line',
  nul: 'with NUL bytes',
  empty: 'empty',
  'no-header': 'without any header field',
  'strange-lines': 'with lines in the header that are no fields',
  'no-date': 'without a readable date',
};

/** One sentence for a file; empty where nothing is odd. */
export function oddityStatement(counts: ReadonlyMap<Oddity, number>, total: number): string {
  if (counts.size === 0) return '';
  const parts = [...counts].map(([oddity, count]) => `${count} ${COUNTED_WORDS[oddity]}`);
  return `Kept, but odd, of ${total}: ${parts.join('; ')}.`;
}
