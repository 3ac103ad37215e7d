import { bodyTest, maybeBodyMatch } from '../rules/known-comparisons';
import { IMPORTANT_MAIL, ONLY_TO, WITH_ATTACHMENT } from '../rules/ready-tests';
import type { LeafTest, TestTree, TextMatch } from '../rules/rule';
import { isSame } from '../rules/same';
import { offersUnsubscribing } from '../rules/unsubscribing';
import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';

/** Plain tests, as the editor offers them. */
export interface TestForm {
  readonly id: FormId;
  /** The subject, as in “when … is”. */
  readonly title: string;
  /** Its Sieve form, in a line. */
  readonly hint: string;
  /** An initial test, usually without keys. */
  readonly begin: (given: GivenWords) => LeafTest;
}

/** Data of the audit for initial values. */
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
/** RFC 5235 section 3.2: the server's score from 1, clearly none, to 10, clearly spam. */
const SPAM: LeafTest = {
  test: 'compared',
  subject: { of: 'spamtest', percent: false },
  by: { match: 'value', relation: 'ge', comparator: 'i;ascii-numeric', keys: ['5'] },
};
/** It was tested and is not spam, or it was not tested. */
const UNTESTED: LeafTest = {
  test: 'compared',
  subject: { of: 'spamtest', percent: false },
  by: match('is', ['0']),
};

export const TEST_FORMS: readonly TestForm[] = [
  { id: 'sender', title: 'From', hint: 'its address, domain or local part', begin: () => address(['from']) },
  { id: 'recipient', title: 'To', hint: 'any address in it', begin: () => address(['to']) },
  { id: 'addressed', title: 'To, Cc or Bcc', hint: 'any recipient', begin: () => address(RECIPIENTS) },
  {
    id: 'own',
    title: 'to you',
    hint: 'one of your addresses in To, Cc or Bcc',
    begin: ({ own }) => address(RECIPIENTS, own),
  },
  {
    id: 'subject',
    title: 'the subject',
    hint: 'words in Subject',
    begin: () => ({ test: 'header', headers: ['subject'], ...match('contains') }),
  },
  { id: 'body', title: 'the body', hint: 'words in the body', begin: () => bodyTest(match('contains')) },
  {
    id: 'list',
    title: 'the mailing list',
    hint: 'its name in List-Id',
    begin: () => ({ test: 'header', headers: ['list-id'], ...match('contains') }),
  },
  {
    id: 'header',
    title: 'another field',
    hint: 'any header field, by its name',
    begin: () => ({ test: 'header', headers: [], ...match('contains') }),
  },
  { id: 'present', title: 'a field is present', hint: 'or missing', begin: () => ({ test: 'exists', headers: [] }) },
  { id: 'attachment', title: 'an attachment', hint: 'a MIME part with a file name', begin: () => WITH_ATTACHMENT },
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
  { id: 'importance', title: 'the importance', hint: 'marked urgent', begin: () => IMPORTANT_MAIL },
  { id: 'spam', title: 'the spam score', hint: 'as rated by the server', begin: () => SPAM },
  {
    id: 'delivered',
    title: 'envelope recipient',
    hint: 'the address the mail was delivered to',
    begin: () => ({ test: 'envelope', parts: ['to'], part: 'all', ...match('is') }),
  },
  {
    id: 'returned',
    title: 'envelope sender',
    hint: 'the address that bounces return to',
    begin: () => ({ test: 'envelope', parts: ['from'], part: 'all', ...match('is') }),
  },
  {
    id: 'flags',
    title: 'flags set earlier',
    hint: 'by rules before this one',
    begin: () => ({ test: 'hasflag', ...match('is', ['\\flagged']) }),
  },
  { id: 'further', title: 'another test', hint: 'dates, numbers, patterns, the server', begin: () => UNTESTED },
];

/** Conditions of several tests that people have a name for, as the editor offers them. */
export const CONDITION_FORMS: readonly {
  readonly title: string;
  readonly hint: string;
  readonly begin: (given: GivenWords & { readonly unsubscribing: readonly string[] }) => TestTree;
}[] = [
  { title: 'only to you', hint: 'one of your addresses, and no other', begin: ({ own }) => ONLY_TO(own) },
  {
    title: 'a way to unsubscribe',
    hint: 'in a field, or by a word in the body',
    begin: ({ unsubscribing }) => offersUnsubscribing(unsubscribing),
  },
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
      if (isSame({ ...test, headers: test.headers.map(lower) }, IMPORTANT_MAIL)) return 'importance';
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
      if (isSame(test, WITH_ATTACHMENT)) return 'attachment';
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

/** Before a day (`lt`), or from a day on (`ge`), in the sender's time zone (RFC 5260 section 4). */
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
