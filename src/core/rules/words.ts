/** Words that sentences of rules share. */

const HEADER_NAMES: Readonly<Record<string, string>> = { subject: 'the subject', from: 'From', to: 'To', cc: 'Cc' };

export function headerWords(names: readonly string[]): string {
  const known = HEADER_NAMES[names[0]?.toLowerCase() ?? ''];
  if (names.length === 1 && known) return known;
  return names.length === 1 ? `the header ${names[0]}` : `one of the headers ${names.join(', ')}`;
}

export function addressee(header: string): string {
  switch (header.toLowerCase()) {
    case 'from':
      return 'of the sender';
    case 'to':
      return 'in To';
    case 'cc':
      return 'in Cc';
    case 'bcc':
      return 'in Bcc';
    default:
      return `in ${header}`;
  }
}

const SHOWN_KEYS = 4;

export function keysWords(keys: readonly string[]): string {
  if (keys.length === 0) return 'nothing';
  if (keys.length <= SHOWN_KEYS) return joined(keys.map(quoted), 'or');
  return `${keys
    .slice(0, SHOWN_KEYS - 1)
    .map(quoted)
    .join(', ')} or one of ${keys.length - SHOWN_KEYS + 1} more`;
}

export const caseWords = (comparator: string): string => (comparator === 'i;octet' ? ' to the letter' : '');

export const quoted = (text: string): string => `“${text}”`;

export function joined(words: readonly string[], conjunction: 'and' | 'or'): string {
  if (words.length <= 1) return words[0] ?? '';
  return `${words.slice(0, -1).join(', ')} ${conjunction} ${words[words.length - 1]}`;
}
