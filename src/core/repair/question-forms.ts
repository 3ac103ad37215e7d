import type { QueryTest, Subject, SubjectKind } from '../rules/comparison';
import type { LeafTest } from '../rules/rule';
import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';

/** The further tests of rules, with their titles and initial values. */

export type QuestionKind = SubjectKind | QueryTest['test'];

interface SubjectForm<Kind extends SubjectKind> {
  readonly title: string;
  readonly begin: Extract<Subject, { of: Kind }>;
}

/** Each kind of subject. */
export const SUBJECT_FORMS: { readonly [Kind in SubjectKind]: SubjectForm<Kind> } = {
  header: { title: 'header fields', begin: { of: 'header', headers: ['Subject'] } },
  address: { title: 'addresses in headers', begin: { of: 'address', headers: ['To'], part: 'all' } },
  envelope: { title: 'the envelope', begin: { of: 'envelope', parts: ['to'], part: 'detail' } },
  body: { title: 'the body', begin: { of: 'body', transform: 'text' } },
  'body parts': { title: 'MIME parts of a media type', begin: { of: 'body parts', types: ['text/plain'] } },
  date: { title: 'a date in a header field', begin: { of: 'date', header: 'date', part: 'weekday', zone: 'original' } },
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

/** Each kind of query. */
export const QUERY_FORMS: { readonly [Kind in QueryTest['test']]: QueryForm<Kind> } = {
  'exists-in-parts': {
    title: 'whether a MIME part has a field',
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
    title: 'whether a folder has a special use',
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
  ihave: { title: 'whether the server supports an extension', begin: { test: 'ihave', capabilities: ['imap4flags'] } },
  convert: {
    title: 'whether the server can convert',
    begin: { test: 'convert', from: 'image/tiff', to: 'image/jpeg', parameters: ['pix-x=640'] },
  },
  duplicate: {
    title: 'whether the message has arrived before',
    begin: { test: 'duplicate', handle: null, identity: null, seconds: null, last: false },
  },
};

/** The initial test of a kind; a comparison takes the keys of the previous test. */
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

/** Scores are compared with one value (RFC 5235), so they do not take over lists of keys. */
const isScore = (kind: QuestionKind): boolean => kind === 'spamtest' || kind === 'virustest';
