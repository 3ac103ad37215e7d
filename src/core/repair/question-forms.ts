import type { QueryTest, Subject, SubjectKind } from '../rules/comparison';
import type { LeafTest } from '../rules/rule';
import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';

/** What the further tests of rules ask, in the words of the trade, and with what each is begun. */

export type QuestionKind = SubjectKind | QueryTest['test'];

interface SubjectForm<Kind extends SubjectKind> {
  readonly title: string;
  readonly begin: Extract<Subject, { of: Kind }>;
}

/** Each kind of what is compared. */
export const SUBJECT_FORMS: { readonly [Kind in SubjectKind]: SubjectForm<Kind> } = {
  header: { title: 'header fields', begin: { of: 'header', headers: ['Subject'] } },
  address: { title: 'addresses in headers', begin: { of: 'address', headers: ['To'], part: 'all' } },
  envelope: { title: 'the envelope', begin: { of: 'envelope', parts: ['to'], part: 'detail' } },
  body: { title: 'the text', begin: { of: 'body', transform: 'text' } },
  'body parts': { title: 'parts of a media type', begin: { of: 'body parts', types: ['text/plain'] } },
  date: { title: 'a date in a header', begin: { of: 'date', header: 'date', part: 'weekday', zone: 'original' } },
  currentdate: { title: 'the date of arrival', begin: { of: 'currentdate', part: 'weekday', zone: null } },
  environment: { title: 'a fact of the server', begin: { of: 'environment', name: 'domain' } },
  string: { title: 'a fixed text', begin: { of: 'string', texts: ['text'] } },
  metadata: {
    title: 'a folder’s annotation',
    begin: { of: 'metadata', folder: 'INBOX', annotation: '/private/comment' },
  },
  servermetadata: { title: 'a server’s annotation', begin: { of: 'servermetadata', annotation: '/shared/comment' } },
  spamtest: { title: 'the spam score', begin: { of: 'spamtest', percent: false } },
  virustest: { title: 'the virus score', begin: { of: 'virustest' } },
  notify_method_capability: {
    title: 'who can be notified',
    begin: { of: 'notify_method_capability', uri: 'mailto:me@home.example', capability: 'online' },
  },
};

interface QueryForm<Kind extends QueryTest['test']> {
  readonly title: string;
  readonly begin: Extract<QueryTest, { test: Kind }>;
}

/** Each kind of question that compares nothing. */
export const QUERY_FORMS: { readonly [Kind in QueryTest['test']]: QueryForm<Kind> } = {
  'exists-in-parts': {
    title: 'whether a part has a header',
    begin: { test: 'exists-in-parts', headers: ['Content-Description'], within: 'all parts' },
  },
  mailboxexists: { title: 'whether folders exist', begin: { test: 'mailboxexists', folders: ['INBOX'] } },
  metadataexists: {
    title: 'whether a folder has annotations',
    begin: { test: 'metadataexists', folder: 'INBOX', annotations: ['/private/comment'] },
  },
  servermetadataexists: {
    title: 'whether the server has annotations',
    begin: { test: 'servermetadataexists', annotations: ['/shared/comment'] },
  },
  specialuse_exists: {
    title: 'whether a folder has a use',
    begin: { test: 'specialuse_exists', folder: null, uses: ['\\Junk'] },
  },
  valid_notify_method: {
    title: 'whether the server can notify',
    begin: { test: 'valid_notify_method', uris: ['mailto:me@home.example'] },
  },
  valid_ext_list: {
    title: 'whether the server has a list',
    begin: { test: 'valid_ext_list', names: [':addrbook:default'] },
  },
  ihave: { title: 'whether the server knows an extension', begin: { test: 'ihave', capabilities: ['imap4flags'] } },
  convert: {
    title: 'whether the server can convert',
    begin: { test: 'convert', from: 'image/tiff', to: 'image/jpeg', parameters: ['pix-x=640'] },
  },
  duplicate: {
    title: 'whether it has come before',
    begin: { test: 'duplicate', handle: null, identity: null, seconds: null, last: false },
  },
};

/** A test of some kind to begin with; one that compares looks for what the test before looked for. */
export function begunQuestion(kind: QuestionKind, before: LeafTest): LeafTest {
  if (isQuery(kind)) return QUERY_FORMS[kind].begin;
  const by = before.test === 'compared' ? before.by : null;
  const fits = by && by.keys.length > 0 && before.test === 'compared' && isScore(before.subject.of) === isScore(kind);
  return {
    test: 'compared',
    subject: SUBJECT_FORMS[kind].begin,
    by: fits ? by : { match: 'is', comparator: DEFAULT_COMPARATOR, keys: [] },
  };
}

const isQuery = (kind: QuestionKind): kind is QueryTest['test'] => Object.hasOwn(QUERY_FORMS, kind);

/** Scores are compared with one value (RFC 5235), so that lists of keys do not pass to them. */
const isScore = (kind: QuestionKind): boolean => kind === 'spamtest' || kind === 'virustest';
