import type { MboxOddity } from '../../core/mail/mbox';
import type { MakingOddity } from '../../core/mail/oddities';

/** What may be odd about a stored message; it is kept and simulated all the same. */
export type Oddity = MboxOddity | MakingOddity | 'no-header' | 'strange-lines' | 'no-date';

export const ODDITY_WORDS: Readonly<Record<Oddity, string>> = {
  'no-separator': 'stands before the first line that begins with “From ”',
  'no-blank-line-before': 'no blank line stands before it in the file',
  'cut-off': 'the file ends in the middle of one of its lines',
  nul: 'holds NUL bytes',
  empty: 'is empty',
  'no-header': 'has no header field',
  'strange-lines': 'has lines in its header that are no fields',
  'no-date': 'has no readable date',
  'cr-lines': 'ends its lines with CR alone, so that no line of it ends for the standards',
  'utf-16': 'is written in UTF-16, which no message may be',
  'many-fields': 'has more than a thousand header fields, of which the first 20,000 are read',
  deep: 'has parts within parts beyond the depth that is looked into',
  'unknown-charset': 'names a character set that is not known here',
  'damaged-base64': 'has a part whose base64 is damaged',
  'odd-html': 'has HTML with a tag longer than 64 KB, or with 10,000 tags open at once',
  large: 'is larger than 25 MB',
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
  'cr-lines': 'with lines that end with CR alone',
  'utf-16': 'in UTF-16',
  'many-fields': 'with more than a thousand header fields',
  deep: 'with parts too deep to be looked into',
  'unknown-charset': 'with a character set that is not known here',
  'damaged-base64': 'with damaged base64',
  'odd-html': 'with HTML as no program writes it',
  large: 'larger than 25 MB',
};

/** One sentence for a file; empty where nothing is odd. */
export function oddityStatement(counts: ReadonlyMap<Oddity, number>, total: number): string {
  if (counts.size === 0) return '';
  const parts = [...counts].map(([oddity, count]) => `${count} ${COUNTED_WORDS[oddity]}`);
  return `Kept, but odd, of ${total}: ${parts.join('; ')}.`;
}
