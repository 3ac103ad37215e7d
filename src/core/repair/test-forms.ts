import { bodyTest, maybeBodyMatch } from '../rules/known-comparisons';
import type { LeafTest, TextMatch } from '../rules/rule';
import { isSame } from '../rules/same';
import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';

/** Leaf tests in the words of the trade: what people begin with when they make a rule. */
export interface TestForm {
  readonly id: FormId;
  /** What is looked at, as it stands in “when … is”. */
  readonly title: string;
  /** What it becomes as Sieve, in a line. */
  readonly hint: string;
  /** A first test of this form, in most still without what it looks for. */
  readonly begin: (given: GivenWords) => LeafTest;
}

/** What a form may be filled with from the audit. */
export interface GivenWords {
  /** The user's own addresses. */
  readonly own: readonly string[];
  /** A day, as YYYY-MM-DD. */
  readonly today: string;
}

export type FormId =
  | 'sender'
  | 'recipient'
  | 'addressed'
  | 'own'
  | 'addresses'
  | 'subject'
  | 'body'
  | 'list'
  | 'header'
  | 'present'
  | 'attachment'
  | 'size'
  | 'date'
  | 'importance'
  | 'spam'
  | 'delivered'
  | 'returned'
  | 'envelope'
  | 'flags'
  | 'further';

const match = (kind: TextMatch['match'], keys: readonly string[] = []): TextMatch => {
  return { match: kind, comparator: DEFAULT_COMPARATOR, keys };
};
const address = (headers: readonly string[], keys: readonly string[] = []): LeafTest => {
  return { test: 'address', headers, part: 'all', ...match('is', keys) };
};
/** The fields that name recipients (RFC 5322 section 3.6.3). */
const RECIPIENTS = ['to', 'cc', 'bcc'];
/** Fields and words that mark a message as urgent (RFC 4021 sections 2.1.54 and 2.1.55; X-Priority is common practice). */
const IMPORTANCE: LeafTest = {
  test: 'header',
  headers: ['importance', 'priority', 'x-priority'],
  ...match('is', ['high', 'urgent', '1', '2']),
};
/** A part that is to be stored apart from the text (RFC 2183 section 2.2), in any depth (RFC 5703 section 4.2). */
const ATTACHMENT: LeafTest = {
  test: 'compared',
  subject: { of: 'header', headers: ['content-disposition'], within: 'all parts' },
  by: match('contains', ['attachment']),
};
/** RFC 5235 section 3.2: the server's score from 1, clearly none, to 10, clearly spam. */
const SPAM: LeafTest = {
  test: 'compared',
  subject: { of: 'spamtest', percent: false },
  by: { match: 'value', relation: 'ge', comparator: 'i;ascii-numeric', keys: ['5'] },
};
/** It was tested and is no spam, or was not tested at all. */
const UNTESTED: LeafTest = {
  test: 'compared',
  subject: { of: 'spamtest', percent: false },
  by: match('is', ['0']),
};

export const TEST_FORMS: readonly TestForm[] = [
  { id: 'sender', title: 'the sender', hint: 'the address in From', begin: () => address(['from']) },
  { id: 'recipient', title: 'the recipient', hint: 'an address in To', begin: () => address(['to']) },
  { id: 'addressed', title: 'anyone addressed', hint: 'To, Cc and Bcc', begin: () => address(RECIPIENTS) },
  {
    id: 'own',
    title: 'an own address',
    hint: 'To, Cc and Bcc, with your addresses',
    begin: ({ own }) => address(RECIPIENTS, own),
  },
  {
    id: 'subject',
    title: 'the subject',
    hint: 'words in Subject',
    begin: () => ({ test: 'header', headers: ['subject'], ...match('contains') }),
  },
  { id: 'body', title: 'the text', hint: 'words in the body', begin: () => bodyTest(match('contains')) },
  {
    id: 'list',
    title: 'the mailing list',
    hint: 'its name in List-Id',
    begin: () => ({ test: 'header', headers: ['list-id'], ...match('contains') }),
  },
  {
    id: 'header',
    title: 'another header',
    hint: 'any field, by its name',
    begin: () => ({ test: 'header', headers: [], ...match('contains') }),
  },
  { id: 'present', title: 'a header is there', hint: 'or is missing', begin: () => ({ test: 'exists', headers: [] }) },
  { id: 'attachment', title: 'an attachment', hint: 'a part to be stored apart', begin: () => ATTACHMENT },
  {
    id: 'size',
    title: 'the size',
    hint: 'of the whole message',
    begin: () => ({ test: 'size', relation: 'over', octets: 1024 ** 2 }),
  },
  {
    id: 'date',
    title: 'the date',
    hint: 'as the sender wrote it',
    begin: ({ today }) => dateTest({ relation: 'lt', day: today }),
  },
  { id: 'importance', title: 'the importance', hint: 'marked as urgent', begin: () => IMPORTANCE },
  { id: 'spam', title: 'the spam score', hint: 'as the server tells it', begin: () => SPAM },
  {
    id: 'delivered',
    title: 'where it was delivered',
    hint: 'the recipient of the envelope',
    begin: () => ({ test: 'envelope', parts: ['to'], part: 'all', ...match('is') }),
  },
  {
    id: 'returned',
    title: 'where it returns to',
    hint: 'the sender of the envelope',
    begin: () => ({ test: 'envelope', parts: ['from'], part: 'all', ...match('is') }),
  },
  {
    id: 'flags',
    title: 'flags so far',
    hint: 'set by rules before this one',
    begin: () => ({ test: 'hasflag', ...match('is', ['\\flagged']) }),
  },
  { id: 'further', title: 'another question', hint: 'dates, numbers, patterns, the server', begin: () => UNTESTED },
];

/** The form in which a test is shown and edited. */
export function formOf(test: LeafTest): FormId {
  switch (test.test) {
    case 'address':
      return formOfAddress(test.headers.map(lower));
    case 'envelope':
      if (test.parts.length !== 1) return 'envelope';
      return test.parts[0] === 'to' ? 'delivered' : 'returned';
    case 'header': {
      if (isSame({ ...test, headers: test.headers.map(lower) }, IMPORTANCE)) return 'importance';
      const [only, another] = test.headers.map(lower);
      if (another === undefined && only === 'subject') return 'subject';
      return another === undefined && only === 'list-id' ? 'list' : 'header';
    }
    case 'exists':
      return 'present';
    case 'size':
      return 'size';
    case 'hasflag':
      return 'flags';
    case 'compared':
      if (isSame(test, ATTACHMENT)) return 'attachment';
      if (isSame(test, SPAM)) return 'spam';
      if (maybeDate(test)) return 'date';
      return maybeBodyMatch(test) ? 'body' : 'further';
    default:
      return 'further';
  }
}

function formOfAddress(headers: readonly string[]): FormId {
  if (isSame(headers, ['from'])) return 'sender';
  if (isSame(headers, ['to'])) return 'recipient';
  return isSame(headers.toSorted(), RECIPIENTS.toSorted()) ? 'addressed' : 'addresses';
}

/** Before a day (`lt`), or from a day on (`ge`), in the zone that the sender wrote it in (RFC 5260 section 4). */
export interface DateMatch {
  readonly relation: 'lt' | 'ge';
  /** YYYY-MM-DD. */
  readonly day: string;
}

export const dateTest = ({ relation, day }: DateMatch): LeafTest => ({
  test: 'compared',
  subject: { of: 'date', header: 'date', part: 'date', zone: 'original' },
  by: { match: 'value', relation, comparator: DEFAULT_COMPARATOR, keys: [day] },
});

/** Null for any other test. */
export function maybeDate(test: LeafTest): DateMatch | null {
  if (test.test !== 'compared' || test.by.match !== 'value') return null;
  const { relation, keys } = test.by;
  const [day = ''] = keys;
  if ((relation !== 'lt' && relation !== 'ge') || !/^\d{4}-\d\d-\d\d$/.test(day)) return null;
  return isSame(test, dateTest({ relation, day })) ? { relation, day } : null;
}

const lower = (text: string): string => text.toLowerCase();
