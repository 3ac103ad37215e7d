import type { Bound } from '../sieve/language/bind';
import { comparatorOf } from '../sieve/language/shared';
import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';
import type { Argument, TestNode } from '../sieve/tree';
import { memberOf } from '../text/lookup';
import type { Relation } from '../text/relation';
import { flagged, number, string, strings, tag, tagged, testNamed } from './arguments';
import type {
  Comparison,
  FurtherAddressPart,
  FurtherTest,
  MimeOption,
  Occurrence,
  PartFields,
  QueryTest,
  Subject,
  SubjectKind,
} from './comparison';

/**
 * Converts Sieve nodes to the further tests of rules and back. Each kind has a row, so that the compiler finds a
 * missing one.
 */

type SubjectOf<Kind extends SubjectKind> = Extract<Subject, { of: Kind }>;

interface SubjectRow<Kind extends SubjectKind> {
  /** The Sieve test, and its parameter with the keys. */
  readonly test: string;
  readonly keys: string;
  /** Null if a test of this name is of another kind. */
  readonly read: (bound: Bound) => SubjectOf<Kind> | null;
  readonly tags: (subject: SubjectOf<Kind>) => readonly Argument[];
  /** The arguments before the keys. */
  readonly positional: (subject: SubjectOf<Kind>) => readonly Argument[];
}

const NONE = (): readonly Argument[] => [];

const SUBJECTS: { readonly [Kind in SubjectKind]: SubjectRow<Kind> } = {
  header: {
    test: 'header',
    keys: 'key-list',
    read: (bound) => {
      const option = readOption(bound);
      return {
        of: 'header',
        headers: bound.strings('header-list'),
        ...(option ? { option } : {}),
        ...readOccurrence(bound),
        ...readWithin(bound),
      };
    },
    tags: (subject) => [
      ...occurrenceTags(subject.occurrence),
      // Parts of a field's value belong to `:mime`.
      ...withinTags(subject.within ?? (subject.option && 'part')),
      ...optionTags(subject.option),
    ],
    positional: ({ headers }) => [strings(headers)],
  },
  address: {
    test: 'address',
    keys: 'key-list',
    read: (bound) => ({
      of: 'address',
      headers: bound.strings('header-list'),
      part: readPart(bound),
      ...readOccurrence(bound),
      ...readWithin(bound),
    }),
    tags: (subject) => [
      ...partTags(subject.part),
      ...occurrenceTags(subject.occurrence),
      ...withinTags(subject.within),
    ],
    positional: ({ headers }) => [strings(headers)],
  },
  envelope: {
    test: 'envelope',
    keys: 'key-list',
    read: (bound) => ({
      of: 'envelope',
      parts: bound.strings('envelope-part').map((name) => name.toLowerCase()),
      part: readPart(bound),
    }),
    tags: ({ part }) => partTags(part),
    positional: ({ parts }) => [strings(parts)],
  },
  body: {
    test: 'body',
    keys: 'key-list',
    read: (bound) => {
      if (bound.tag('transform') === 'content') return null;
      return { of: 'body', transform: bound.tag('transform') === 'raw' ? 'raw' : 'text' };
    },
    tags: ({ transform }) => flagged(transform, transform !== 'text'),
    positional: NONE,
  },
  'body parts': {
    test: 'body',
    keys: 'key-list',
    read: (bound) => (bound.has('content') ? { of: 'body parts', types: bound.strings('content') } : null),
    tags: ({ types }) => tagged('content', strings(types)),
    positional: NONE,
  },
  date: {
    test: 'date',
    keys: 'key-list',
    read: (bound) => ({
      of: 'date',
      header: bound.string('header-name'),
      part: bound.string('date-part').toLowerCase(),
      zone: readZone(bound),
      ...readOccurrence(bound),
    }),
    tags: ({ zone, occurrence }) => [...zoneTags(zone), ...occurrenceTags(occurrence)],
    positional: ({ header, part }) => [string(header), string(part)],
  },
  currentdate: {
    test: 'currentdate',
    keys: 'key-list',
    read: (bound) => ({
      of: 'currentdate',
      part: bound.string('date-part').toLowerCase(),
      zone: readZone(bound),
    }),
    tags: ({ zone }) => zoneTags(zone),
    positional: ({ part }) => [string(part)],
  },
  environment: {
    test: 'environment',
    keys: 'key-list',
    read: (bound) => ({ of: 'environment', name: bound.string('name') }),
    tags: NONE,
    positional: ({ name }) => [string(name)],
  },
  string: {
    test: 'string',
    keys: 'key-list',
    read: (bound) => ({ of: 'string', texts: bound.strings('source') }),
    tags: NONE,
    positional: ({ texts }) => [strings(texts)],
  },
  metadata: {
    test: 'metadata',
    keys: 'key-list',
    read: (bound) => ({
      of: 'metadata',
      folder: bound.string('mailbox'),
      annotation: bound.string('annotation-name'),
    }),
    tags: NONE,
    positional: ({ folder, annotation }) => [string(folder), string(annotation)],
  },
  servermetadata: {
    test: 'servermetadata',
    keys: 'key-list',
    read: (bound) => ({ of: 'servermetadata', annotation: bound.string('annotation-name') }),
    tags: NONE,
    positional: ({ annotation }) => [string(annotation)],
  },
  spamtest: {
    test: 'spamtest',
    keys: 'value',
    read: (bound) => ({ of: 'spamtest', percent: bound.tag('percent') !== null }),
    tags: ({ percent }) => flagged('percent', percent),
    positional: NONE,
  },
  virustest: {
    test: 'virustest',
    keys: 'value',
    read: () => ({ of: 'virustest' }),
    tags: NONE,
    positional: NONE,
  },
  notify_method_capability: {
    test: 'notify_method_capability',
    keys: 'key-list',
    read: (bound) => ({
      of: 'notify_method_capability',
      uri: bound.string('uri'),
      capability: bound.string('notification-capability'),
    }),
    tags: NONE,
    positional: ({ uri, capability }) => [string(uri), string(capability)],
  },
};

type QueryOf<Kind extends QueryTest['test']> = Extract<QueryTest, { test: Kind }>;

interface QueryRow<Kind extends QueryTest['test']> {
  /** The Sieve test. */
  readonly test: string;
  readonly read: (bound: Bound) => QueryOf<Kind>;
  readonly args: (query: QueryOf<Kind>) => readonly Argument[];
}

const QUERIES: { readonly [Kind in QueryTest['test']]: QueryRow<Kind> } = {
  'exists-in-parts': {
    test: 'exists',
    read: (bound) => ({
      test: 'exists-in-parts',
      headers: bound.strings('header-list'),
      within: readWithin(bound).within ?? 'part',
    }),
    args: ({ headers, within }) => [...withinTags(within), strings(headers)],
  },
  mailboxexists: {
    test: 'mailboxexists',
    read: (bound) => ({ test: 'mailboxexists', folders: bound.strings('mailbox-names') }),
    args: ({ folders }) => [strings(folders)],
  },
  metadataexists: {
    test: 'metadataexists',
    read: (bound) => ({
      test: 'metadataexists',
      folder: bound.string('mailbox'),
      annotations: bound.strings('annotation-names'),
    }),
    args: ({ folder, annotations }) => [string(folder), strings(annotations)],
  },
  servermetadataexists: {
    test: 'servermetadataexists',
    read: (bound) => ({ test: 'servermetadataexists', annotations: bound.strings('annotation-names') }),
    args: ({ annotations }) => [strings(annotations)],
  },
  specialuse_exists: {
    test: 'specialuse_exists',
    read: (bound) => ({
      test: 'specialuse_exists',
      folder: bound.has('mailbox') ? bound.string('mailbox') : null,
      uses: bound.strings('special-use-flags'),
    }),
    args: ({ folder, uses }) => [...(folder === null ? [] : [string(folder)]), strings(uses)],
  },
  valid_notify_method: {
    test: 'valid_notify_method',
    read: (bound) => ({ test: 'valid_notify_method', uris: bound.strings('uris') }),
    args: ({ uris }) => [strings(uris)],
  },
  valid_ext_list: {
    test: 'valid_ext_list',
    read: (bound) => ({ test: 'valid_ext_list', names: bound.strings('ext-list-names') }),
    args: ({ names }) => [strings(names)],
  },
  ihave: {
    test: 'ihave',
    read: (bound) => ({ test: 'ihave', capabilities: bound.strings('capabilities') }),
    args: ({ capabilities }) => [strings(capabilities)],
  },
  convert: {
    test: 'convert',
    read: (bound) => ({
      test: 'convert',
      from: bound.string('quoted-from-media-type'),
      to: bound.string('quoted-to-media-type'),
      parameters: bound.strings('transcoding-params'),
    }),
    args: ({ from, to, parameters }) => [string(from), string(to), strings(parameters)],
  },
  duplicate: {
    test: 'duplicate',
    read: (bound) => {
      const by = bound.tagAmong('identity', ['header', 'uniqueid']);
      return {
        test: 'duplicate',
        handle: bound.has('handle') ? bound.string('handle') : null,
        identity: by && { by, of: bound.string(by) },
        seconds: bound.has('seconds') ? bound.number('seconds') : null,
        last: bound.tag('last') !== null,
      };
    },
    args: ({ handle, identity, seconds, last }) => [
      ...(handle === null ? [] : tagged('handle', string(handle))),
      ...(identity ? tagged(identity.by, string(identity.of)) : []),
      ...(seconds === null ? [] : tagged('seconds', number(seconds))),
      ...flagged('last', last),
    ],
  },
};

/** The same table for any name; each row gets only nodes of its own name. */
const SUBJECT_ROWS = SUBJECTS as { readonly [Kind in SubjectKind]: SubjectRow<SubjectKind> };
const QUERY_ROWS = QUERIES as { readonly [Kind in QueryTest['test']]: QueryRow<QueryTest['test']> };

/** The test of a bound node; null if rules have none of this name. */
export function readFurther(name: string, bound: Bound): FurtherTest | null {
  for (const row of Object.values(SUBJECT_ROWS)) {
    const subject = row.test === name ? row.read(bound) : null;
    if (subject) return { test: 'compared', subject, by: readComparison(bound, row.keys) };
  }
  const query = Object.values(QUERY_ROWS).find(({ test }) => test === name);
  return query?.read(bound) ?? null;
}

export function furtherNode(test: FurtherTest): TestNode {
  if (test.test !== 'compared') {
    const row = QUERY_ROWS[test.test];
    return testNamed(row.test, row.args(test));
  }
  const { subject, by } = test;
  const row = SUBJECT_ROWS[subject.of];
  // A score is compared with one value.
  const keys = row.keys === 'value' ? string(by.keys[0] ?? '') : strings(by.keys);
  return testNamed(row.test, [...row.tags(subject), ...comparisonTags(by), ...row.positional(subject), keys]);
}

const MATCHES = ['is', 'contains', 'matches', 'regex', 'list', 'value', 'count'] as const;
const RELATIONS: readonly Relation[] = ['gt', 'ge', 'lt', 'le', 'eq', 'ne'];
const PARTS: readonly FurtherAddressPart[] = ['all', 'localpart', 'domain', 'user', 'detail'];

function readComparison(bound: Bound, keys: string): Comparison {
  const match = bound.tagAmong('match-type', MATCHES) ?? 'is';
  const how = { comparator: comparatorOf(bound), keys: bound.strings(keys) };
  if (match !== 'value' && match !== 'count') return { match, ...how };
  return { match, relation: memberOf(RELATIONS, bound.string('relation').toLowerCase()) ?? 'eq', ...how };
}

/** Defaults are written for match types and omitted for comparators. */
function comparisonTags(by: Comparison): Argument[] {
  const given = by.comparator === DEFAULT_COMPARATOR ? [] : tagged('comparator', string(by.comparator));
  return [...given, tag(by.match), ...('relation' in by ? [string(by.relation)] : [])];
}

const readPart = (bound: Bound): FurtherAddressPart => bound.tagAmong('address-part', PARTS) ?? 'all';
const partTags = (part: FurtherAddressPart): Argument[] => flagged(part, part !== 'all');

function readOccurrence(bound: Bound): { readonly occurrence?: Occurrence } {
  if (!bound.has('index')) return {};
  return { occurrence: { number: bound.number('index'), fromEnd: bound.tag('last') !== null } };
}
const occurrenceTags = (occurrence: Occurrence | undefined): Argument[] =>
  occurrence ? [...tagged('index', number(occurrence.number)), ...flagged('last', occurrence.fromEnd)] : [];

function readWithin(bound: Bound): { readonly within?: PartFields } {
  if (bound.tag('mime') === null) return {};
  return { within: bound.tag('anychild') === null ? 'part' : 'all parts' };
}
const withinTags = (within: PartFields | undefined): Argument[] => [
  ...flagged('mime', within !== undefined),
  ...flagged('anychild', within === 'all parts'),
];

function readOption(bound: Bound): MimeOption | null {
  const take = bound.tagAmong('mime-option', ['type', 'subtype', 'contenttype', 'param']);
  return take === 'param' ? { take, names: bound.strings('param') } : take && { take };
}
const optionTags = (option: MimeOption | undefined): Argument[] => {
  if (!option) return [];
  return option.take === 'param' ? tagged('param', strings(option.names)) : [tag(option.take)];
};

const readZone = (bound: Bound): string | null =>
  bound.tag('zone') === 'originalzone' ? 'original' : bound.has('zone') ? bound.string('zone') : null;
const zoneTags = (zone: string | null): Argument[] => {
  if (zone === null) return [];
  return zone === 'original' ? [tag('originalzone')] : tagged('zone', string(zone));
};
