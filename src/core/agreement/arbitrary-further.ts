import fc from 'fast-check';
import type { Comparison, QueryTest, Subject, SubjectKind } from '../rules/comparison';
import type { FiledCopy, FurtherAction, FurtherActionName } from '../rules/further-actions';

/** Generated further tests and actions of every kind, as the reader of scripts returns them. */

const word = fc.constantFrom('oak', 'a"b', 'a\\b', '*', 'Müll', '漢字', 'x y', '1', '#', ';');
const words = fc.array(word, { minLength: 1, maxLength: 3 });
const name = fc.constantFrom('Subject', 'X-Tag', 'to');
const names = fc.uniqueArray(name, { minLength: 1, maxLength: 2 });
const part = fc.constantFrom(
  'all' as const,
  'localpart' as const,
  'domain' as const,
  'user' as const,
  'detail' as const,
);
const within = fc.constantFrom('part' as const, 'all parts' as const);
const occurrence = fc.record({ number: fc.integer({ min: 1, max: 9 }), fromEnd: fc.boolean() });
const datePart = fc.constantFrom('date', 'year', 'month', 'weekday', 'hour', 'time', 'zone');
const offset = fc.constantFrom(null, '+0100', '-0930');

/** A record with optional properties. */
const partial = <T, K extends keyof T>(model: { [Key in keyof T]: fc.Arbitrary<T[Key]> }, ...requiredKeys: K[]) =>
  fc.record(model, { requiredKeys });

const SUBJECTS: { readonly [Kind in SubjectKind]: fc.Arbitrary<Extract<Subject, { of: Kind }>> } = {
  header: partial(
    {
      of: fc.constant('header' as const),
      headers: names,
      occurrence,
      within: fc.constant('all parts' as const),
      option: fc.oneof(
        fc.record({ take: fc.constantFrom('type' as const, 'subtype' as const, 'contenttype' as const) }),
        fc.record({ take: fc.constant('param' as const), names }),
      ),
    },
    'of',
    'headers',
  ).map((subject) => (subject.option && !subject.within ? { ...subject, within: 'part' as const } : subject)),
  address: partial(
    { of: fc.constant('address' as const), headers: names, part, occurrence, within },
    'of',
    'headers',
    'part',
  ),
  envelope: fc.record({
    of: fc.constant('envelope' as const),
    parts: fc.uniqueArray(fc.constantFrom('from', 'to'), { minLength: 1 }),
    part,
  }),
  body: fc.record({ of: fc.constant('body' as const), transform: fc.constantFrom('text' as const, 'raw' as const) }),
  'body parts': fc.record({ of: fc.constant('body parts' as const), types: words }),
  date: partial(
    {
      of: fc.constant('date' as const),
      header: name,
      part: datePart,
      zone: fc.oneof(offset, fc.constant('original')),
      occurrence,
    },
    'of',
    'header',
    'part',
    'zone',
  ),
  currentdate: fc.record({ of: fc.constant('currentdate' as const), part: datePart, zone: offset }),
  environment: fc.record({ of: fc.constant('environment' as const), name: fc.constantFrom('domain', 'host') }),
  string: fc.record({ of: fc.constant('string' as const), texts: words }),
  metadata: fc.record({ of: fc.constant('metadata' as const), folder: word, annotation: word }),
  servermetadata: fc.record({ of: fc.constant('servermetadata' as const), annotation: word }),
  spamtest: fc.record({ of: fc.constant('spamtest' as const), percent: fc.boolean() }),
  virustest: fc.record({ of: fc.constant('virustest' as const) }),
  notify_method_capability: fc.record({
    of: fc.constant('notify_method_capability' as const),
    uri: fc.constant('mailto:a@mill.example'),
    capability: fc.constant('online'),
  }),
};

const TEXTS = ['i;ascii-casemap', 'i;octet', 'i;unicode-casemap'];
const relation = fc.constantFrom(
  'gt' as const,
  'ge' as const,
  'lt' as const,
  'le' as const,
  'eq' as const,
  'ne' as const,
);

/** A score is compared with one value. */
const keysFor = ({ of }: Subject) => (/test$/.test(of) ? fc.tuple(fc.constantFrom('0', '5')) : words);

const comparisonFor = (subject: Subject): fc.Arbitrary<Comparison> =>
  fc.oneof(
    fc.record({
      match: fc.constantFrom('is' as const, 'contains' as const, 'matches' as const, 'list' as const),
      comparator: fc.constantFrom(...TEXTS),
      keys: keysFor(subject),
    }),
    fc.record({
      match: fc.constant('regex' as const),
      comparator: fc.constantFrom(...TEXTS),
      keys: fc.constant(['^o.k']),
    }),
    ...(['value', 'count'] as const).map((match) =>
      fc.record({
        match: fc.constant(match),
        relation,
        comparator: fc.constantFrom(...TEXTS, 'i;ascii-numeric'),
        keys: keysFor(subject),
      }),
    ),
  ) as fc.Arbitrary<Comparison>;

/** Tests that are not plain tests of rules. */
export const comparedTest = fc
  .oneof(...Object.values(SUBJECTS))
  .chain((subject) => comparisonFor(subject).map((by) => ({ test: 'compared' as const, subject, by })));

const QUERIES: { readonly [Kind in QueryTest['test']]: fc.Arbitrary<Extract<QueryTest, { test: Kind }>> } = {
  'exists-in-parts': fc.record({ test: fc.constant('exists-in-parts' as const), headers: names, within }),
  mailboxexists: fc.record({ test: fc.constant('mailboxexists' as const), folders: words }),
  metadataexists: fc.record({ test: fc.constant('metadataexists' as const), folder: word, annotations: words }),
  servermetadataexists: fc.record({ test: fc.constant('servermetadataexists' as const), annotations: words }),
  specialuse_exists: fc.record({
    test: fc.constant('specialuse_exists' as const),
    folder: fc.option(word),
    uses: fc.constant(['\\Junk']),
  }),
  valid_notify_method: fc.record({ test: fc.constant('valid_notify_method' as const), uris: words }),
  valid_ext_list: fc.record({ test: fc.constant('valid_ext_list' as const), names: words }),
  ihave: fc.record({ test: fc.constant('ihave' as const), capabilities: fc.constant(['fileinto', 'other']) }),
  convert: fc.record({
    test: fc.constant('convert' as const),
    from: fc.constant('image/tiff'),
    to: fc.constant('image/png'),
    parameters: words,
  }),
  duplicate: fc.record({
    test: fc.constant('duplicate' as const),
    handle: fc.option(word),
    identity: fc.option(
      fc.record({ by: fc.constantFrom('header' as const, 'uniqueid' as const), of: fc.constant('X-Tag') }),
    ),
    seconds: fc.option(fc.integer({ min: 1, max: 1_000_000 })),
    last: fc.boolean(),
  }),
};

export const queryTest = fc.oneof(...Object.values(QUERIES));

const truth = fc.constant(true as const);
const address = fc.constant('ann@mill.example');
const reason = fc.oneof(word, fc.constant('Two\r\nlines\r\n'), fc.constant('.\r\n'), fc.constant('one\nline'));
const fcc: fc.Arbitrary<FiledCopy> = partial(
  { folder: word, flags: fc.constant(['\\seen']), create: truth, use: fc.constant('\\Sent') },
  'folder',
);

const ACTIONS: { readonly [Name in FurtherActionName]: fc.Arbitrary<Extract<FurtherAction, { action: Name }>> } = {
  vacation: partial(
    {
      action: fc.constant('vacation' as const),
      reason,
      period: fc.record({
        unit: fc.constantFrom('days' as const, 'seconds' as const),
        number: fc.integer({ min: 1, max: 2_000_000 }),
      }),
      subject: word,
      from: address,
      addresses: fc.constant(['ann@mill.example']),
      mime: truth,
      handle: word,
      fcc,
    },
    'action',
    'reason',
  ),
  notify: partial(
    {
      action: fc.constant('notify' as const),
      method: fc.constant('mailto:ann@mill.example'),
      from: address,
      importance: fc.constant('1'),
      options: words,
      message: word,
      fcc,
    },
    'action',
    'method',
  ),
  reject: fc.record({ action: fc.constant('reject' as const), reason }),
  ereject: fc.record({ action: fc.constant('ereject' as const), reason }),
  'fileinto-use': partial(
    {
      action: fc.constant('fileinto-use' as const),
      use: fc.constant('\\Archive'),
      folder: word,
      copy: fc.boolean(),
      create: truth,
      flags: fc.option(fc.constant(['\\seen'])),
    },
    'action',
    'use',
    'folder',
    'copy',
    'flags',
  ),
  'redirect-further': partial(
    {
      action: fc.constant('redirect-further' as const),
      address,
      copy: fc.boolean(),
      list: truth,
      notify: fc.constant(['SUCCESS']),
      ret: fc.constant('FULL'),
      by: partial(
        {
          time: fc.oneof(fc.nat(1000), fc.constant('2026-01-01T00:00:00Z')),
          mode: fc.constant('return'),
          trace: truth,
        },
        'time',
      ),
    },
    'action',
    'address',
    'copy',
  ).map((action) => ({ ...action, list: true as const })),
  replace: partial(
    { action: fc.constant('replace' as const), text: reason, mime: truth, subject: word, from: address },
    'action',
    'text',
  ),
  enclose: partial(
    { action: fc.constant('enclose' as const), text: reason, subject: word, headers: fc.constant(['X-Tag: a']) },
    'action',
    'text',
  ),
  convert: fc.record({
    action: fc.constant('convert' as const),
    from: fc.constant('image/tiff'),
    to: fc.constant('image/png'),
    parameters: words,
  }),
  error: fc.record({ action: fc.constant('error' as const), message: reason }),
};

export const furtherAction: fc.Arbitrary<FurtherAction> = fc.oneof(...Object.values(ACTIONS));
