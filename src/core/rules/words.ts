/** Words that sentences of rules share. */

/** Names that are not simply capitalised at each hyphen (RFC 5322 section 3.6, RFC 2045 section 4). */
const SPELLED: Readonly<Record<string, string>> = {
  subject: 'the subject',
  'message-id': 'Message-ID',
  'resent-message-id': 'Resent-Message-ID',
  'content-id': 'Content-ID',
  'mime-version': 'MIME-Version',
};

/** The name of a header field in standard spelling, whatever the rule has: `x-spam-flag` is X-Spam-Flag. */
export function fieldName(name: string): string {
  const lower = name.toLowerCase();
  if (SPELLED[lower]) return SPELLED[lower];
  return name !== lower && name !== name.toUpperCase()
    ? name
    : lower.replace(/(^|-)(\p{L})/gu, (_, hyphen: string, letter: string) => hyphen + letter.toUpperCase());
}

/** Several fields, each name once. */
export const fieldNames = (names: readonly string[], conjunction: 'and' | 'or'): string =>
  names.length === 0 ? MISSING : joined([...new Set(names.map(fieldName))], conjunction);

/** Stands for a field that is not entered yet. */
const MISSING = '…';

const SHOWN_KEYS = 4;

/** Joins keys that are already quoted; of many only the first three, and the number of the others. */
export function keysWords(keys: readonly string[], conjunction: 'or' | 'nor' = 'or'): string {
  if (keys.length === 0) return 'nothing';
  if (keys.length <= SHOWN_KEYS) return joined(keys, conjunction);
  return `${keys.slice(0, SHOWN_KEYS - 1).join(', ')} or any of ${keys.length - SHOWN_KEYS + 1} more`;
}

export const caseWords = (comparator: string): string => (comparator === 'i;octet' ? ' (case-sensitive)' : '');

export const quoted = (text: string): string => `“${text}”`;

export function joined(words: readonly string[], conjunction: 'and' | 'or' | 'nor'): string {
  if (words.length <= 1) return words[0] ?? '';
  return `${words.slice(0, -1).join(', ')} ${conjunction} ${words[words.length - 1]}`;
}

/** Separates tests by commas if one of them contains an “or” or “and”, so that their ends are visible. */
export function joinedTests(tests: readonly string[], conjunction: 'and' | 'or'): string {
  const isLong = tests.some((test) => / (?:and|or|nor) /.test(test.replace(/“[^”]*”/g, '').replace(/\([^()]*\)/g, '')));
  if (tests.length < 2 || !isLong) return joined(tests, conjunction);
  return tests.map((test, at) => (at === 0 ? test : `${conjunction} ${test}`)).join(', ');
}

/** Each match type, its negation, and its negation for two keys. */
const MATCHES = {
  is: ['is', 'is not', 'is neither'],
  contains: ['contains', 'does not contain', 'contains neither'],
  matches: ['matches', 'does not match', 'matches neither'],
  regex: [
    'matches the regular expression',
    'does not match the regular expression',
    'matches neither of the regular expressions',
  ],
  list: ['is in the server’s list', 'is not in the server’s list', 'is in neither of the server’s lists'],
} as const;

/** A subject compared with keys that are already quoted, or the negation: with two keys, the subject meets neither. */
export function matchWords(
  subject: string,
  match: keyof typeof MATCHES,
  keys: readonly string[],
  negated: boolean,
): string {
  const [said, denied, neither] = MATCHES[match];
  const named = match === 'is' ? keys.map((key) => (key === quoted('') ? 'empty' : key)) : keys;
  const not = named.length === 2 ? `${neither} ${keysWords(named, 'nor')}` : `${denied} ${keysWords(named)}`;
  return predicated(subject, `${said} ${keysWords(named)}`, not, negated);
}

/** A subject and its predicate, or the negation: no “domain in To”, neither From nor Sender. */
export function predicated(subject: string, said: string, denied: string, negated: boolean): string {
  if (!negated) return `${subject} ${said}`;
  const article = /^an? /.exec(subject);
  if (article) return `no ${subject.slice(article[0].length)} ${said}`;
  const [, of = '', whose = subject] = /^(the [\p{L} ]+ (?:of|in) )(.*)$/u.exec(subject) ?? [];
  const fields = whose.split(/, | or /);
  if (fields.length === 1 || subject.includes('“')) return `${subject} ${denied}`;
  return `${of}${fields.length === 2 ? `neither ${fields.join(' nor ')}` : `none of ${joined(fields, 'and')}`} ${said}`;
}

const NEVER_SEVERAL = new Set(['from', 'sender', 'resent-from', 'resent-sender', 'return-path', 'delivered-to']);

/** The subject of an address test: the one in From, any of those in To. */
export function addressSubject(part: string, headers: readonly string[]): string {
  const isOne = headers.every((name) => NEVER_SEVERAL.has(name.toLowerCase()));
  const whose = part === 'address' ? 'in' : 'of';
  return isOne
    ? `the ${part} ${whose} ${fieldNames(headers, 'or')}`
    : `${articleOf(part)} ${part} in ${fieldNames(headers, 'or')}`;
}

const articleOf = (word: string): string => (/^[aeiou]/.test(word) ? 'an' : 'a');

/** Whether fields are present, or not all of them; `where` names the MIME part. */
export function presentWords(headers: readonly string[], where: string, negated: boolean): string {
  const [only = MISSING] = headers;
  const named = fieldNames(headers, 'and');
  if (!named.includes(' and ') || headers.length === 1) {
    const subject = fieldName(only) === 'the subject' ? 'the subject' : `the field ${fieldName(only)}`;
    return negated ? `${subject} is missing${where}` : `${subject} is present${where}`;
  }
  return `the fields ${named.replace('the subject', 'Subject')} are ${negated ? 'not ' : ''}${headers.length === 2 ? 'both' : 'all'} present${where}`;
}

export const filingWords = (copy: boolean): string => (copy ? 'file a copy into' : 'file into');

const MONTHS = 'January February March April May June July August September October November December'.split(' ');
const WEEKDAYS = 'Sunday Monday Tuesday Wednesday Thursday Friday Saturday'.split(' ');

/** `05` is May; null where it is no month (RFC 5260 section 4.2). */
export const maybeMonth = (key: string): string | null =>
  /^(0[1-9]|1[0-2])$/.test(key) ? (MONTHS[Number(key) - 1] ?? null) : null;

/** `0` is Sunday; null where it is no weekday (RFC 5260 section 4.2). */
export const maybeWeekday = (key: string): string | null =>
  /^[0-6]$/.test(key) ? (WEEKDAYS[Number(key)] ?? null) : null;

/** `2026-01-31` is 31 January 2026; null where it is no such date. */
export function maybeDay(key: string): string | null {
  const [, year, month, day] = /^(\d{4})-(\d\d)-(0[1-9]|[12]\d|3[01])$/.exec(key) ?? [];
  const name = month && maybeMonth(month);
  return name && year && day ? `${Number(day)} ${name} ${year}` : null;
}
