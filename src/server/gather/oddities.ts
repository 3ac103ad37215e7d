import type { MboxOddity } from '../../core/mail/mbox';
import type { MakingOddity } from '../../core/mail/oddities';

/** Irregularities of a stored message; it is imported and simulated anyway. */
export type Oddity = MboxOddity | MakingOddity | 'no-header' | 'strange-lines' | 'no-date';

export const ODDITY_WORDS: Readonly<Record<Oddity, string>> = {
  'no-separator': 'is before the first line that starts with “From ”',
  'no-blank-line-before': 'has no blank line before it in the file',
  'cut-off': 'the file ends in the middle of one of its lines',
  nul: 'contains NUL bytes',
  empty: 'is empty',
  'no-header': 'has no header field',
  'strange-lines': 'has header lines that are not fields',
  'no-date': 'has no readable date',
  'cr-lines': 'ends its lines with CR alone, which is not a line end by the standards',
  'utf-16': 'is in UTF-16, which the standards do not allow for messages',
  'many-fields': 'has more than 1,000 header fields, of which the first 20,000 are read',
  deep: 'has MIME parts nested too deeply to be read',
  'unknown-charset': 'names an unknown character set',
  'damaged-base64': 'has a part whose base64 is damaged',
  'odd-html': 'has HTML with a tag longer than 64 KB, or with 10,000 tags open at once',
  large: 'is larger than 25 MB',
};

const COUNTED_WORDS: Readonly<Record<Oddity, string>> = {
  'no-separator': 'before the first line that starts with “From ”',
  'no-blank-line-before': 'without a blank line before',
  'cut-off': 'cut off in the middle of a line',
  nul: 'with NUL bytes',
  empty: 'empty',
  'no-header': 'without any header field',
  'strange-lines': 'with header lines that are not fields',
  'no-date': 'without a readable date',
  'cr-lines': 'with lines that end with CR alone',
  'utf-16': 'in UTF-16',
  'many-fields': 'with more than 1,000 header fields',
  deep: 'with MIME parts nested too deeply',
  'unknown-charset': 'with an unknown character set',
  'damaged-base64': 'with damaged base64',
  'odd-html': 'with malformed HTML',
  large: 'larger than 25 MB',
};

/** One sentence for a file; empty if nothing is irregular. */
export function oddityStatement(counts: ReadonlyMap<Oddity, number>, total: number): string {
  if (counts.size === 0) return '';
  const parts = [...counts].map(([oddity, count]) => `${count} ${COUNTED_WORDS[oddity]}`);
  return `Irregular, but imported, of ${total}: ${parts.join('; ')}.`;
}
