import { z } from 'zod';
import type { ComparedTest, Comparison, QueryTest, Subject, SubjectKind } from '../core/rules/comparison';
import type { FiledCopy, FurtherAction, FurtherActionName } from '../core/rules/further-actions';

/**
 * Shapes of further tests and actions, as they come over HTTP or from a file. Each kind has a row, so that the compiler
 * finds a missing one.
 */

export const words = z.string().max(4 * 1024 * 1024, 'a text is longer than 4 MB');
export const list = z.array(words).max(100_000, 'a list has more than 100,000 items');

const name = z.string().max(10_000, 'a name is longer than 10,000 characters');
const whole = z.int().min(0);
const given = z.literal(true).optional();

const occurrence = z.object({ number: whole, fromEnd: z.boolean() }).optional();
const within = z.enum(['part', 'all parts']);
const part = z.enum(['all', 'localpart', 'domain', 'user', 'detail']);
const zone = name.nullable();
const option = z
  .union([
    z.object({ take: z.enum(['type', 'subtype', 'contenttype']) }),
    z.object({ take: z.literal('param'), names: list }),
  ])
  .optional();

/** Shapes for the members of a union with a discriminating property. */
type Shapes<Union, By extends keyof Union> = {
  readonly [Kind in Union[By] & string]: z.ZodType<Extract<Union, Record<By, Kind>>> & z.core.$ZodTypeDiscriminable;
};

const SUBJECTS: Shapes<Subject, 'of'> = {
  header: z.object({ of: z.literal('header'), headers: list, occurrence, within: within.optional(), option }),
  address: z.object({ of: z.literal('address'), headers: list, part, occurrence, within: within.optional() }),
  envelope: z.object({ of: z.literal('envelope'), parts: list, part }),
  body: z.object({ of: z.literal('body'), transform: z.enum(['text', 'raw']) }),
  'body parts': z.object({ of: z.literal('body parts'), types: list }),
  date: z.object({ of: z.literal('date'), header: name, part: name, zone, occurrence }),
  currentdate: z.object({ of: z.literal('currentdate'), part: name, zone }),
  environment: z.object({ of: z.literal('environment'), name }),
  string: z.object({ of: z.literal('string'), texts: list }),
  metadata: z.object({ of: z.literal('metadata'), folder: words, annotation: name }),
  servermetadata: z.object({ of: z.literal('servermetadata'), annotation: name }),
  spamtest: z.object({ of: z.literal('spamtest'), percent: z.boolean() }),
  virustest: z.object({ of: z.literal('virustest') }),
  notify_method_capability: z.object({ of: z.literal('notify_method_capability'), uri: words, capability: name }),
} satisfies Record<SubjectKind, unknown>;

const comparator = z.string().max(100);
const relation = z.enum(['gt', 'ge', 'lt', 'le', 'eq', 'ne']);
const COMPARISON: z.ZodType<Comparison> = z.discriminatedUnion('match', [
  z.object({ match: z.enum(['is', 'contains', 'matches', 'regex', 'list']), comparator, keys: list }),
  z.object({ match: z.literal('value'), relation, comparator, keys: list }),
  z.object({ match: z.literal('count'), relation, comparator, keys: list }),
]);

const compared = z.object({
  test: z.literal('compared'),
  subject: z.discriminatedUnion('of', shapesOf(SUBJECTS)),
  by: COMPARISON,
}) satisfies z.ZodType<ComparedTest>;

const QUERIES: Shapes<QueryTest, 'test'> = {
  'exists-in-parts': z.object({ test: z.literal('exists-in-parts'), headers: list, within }),
  mailboxexists: z.object({ test: z.literal('mailboxexists'), folders: list }),
  metadataexists: z.object({ test: z.literal('metadataexists'), folder: words, annotations: list }),
  servermetadataexists: z.object({ test: z.literal('servermetadataexists'), annotations: list }),
  specialuse_exists: z.object({ test: z.literal('specialuse_exists'), folder: words.nullable(), uses: list }),
  valid_notify_method: z.object({ test: z.literal('valid_notify_method'), uris: list }),
  valid_ext_list: z.object({ test: z.literal('valid_ext_list'), names: list }),
  ihave: z.object({ test: z.literal('ihave'), capabilities: list }),
  convert: z.object({ test: z.literal('convert'), from: name, to: name, parameters: list }),
  duplicate: z.object({
    test: z.literal('duplicate'),
    handle: words.nullable(),
    identity: z.object({ by: z.enum(['header', 'uniqueid']), of: words }).nullable(),
    seconds: whole.nullable(),
    last: z.boolean(),
  }),
};

const fcc: z.ZodType<FiledCopy | undefined> = z
  .object({ folder: words, flags: list.optional(), create: given, use: name.optional() })
  .optional();

const ACTIONS: {
  readonly [Name in FurtherActionName]: z.ZodType<Extract<FurtherAction, { action: Name }>> &
    z.core.$ZodTypeDiscriminable;
} = {
  vacation: z.object({
    action: z.literal('vacation'),
    reason: words,
    period: z.object({ unit: z.enum(['days', 'seconds']), number: whole }).optional(),
    subject: words.optional(),
    from: words.optional(),
    addresses: list.optional(),
    mime: given,
    handle: words.optional(),
    fcc,
  }),
  notify: z.object({
    action: z.literal('notify'),
    method: words,
    from: words.optional(),
    importance: name.optional(),
    options: list.optional(),
    message: words.optional(),
    fcc,
  }),
  reject: z.object({ action: z.literal('reject'), reason: words }),
  ereject: z.object({ action: z.literal('ereject'), reason: words }),
  'fileinto-use': z.object({
    action: z.literal('fileinto-use'),
    use: name,
    folder: words,
    copy: z.boolean(),
    create: given,
    flags: list.nullable(),
  }),
  'redirect-further': z.object({
    action: z.literal('redirect-further'),
    address: words,
    copy: z.boolean(),
    list: given,
    notify: list.optional(),
    ret: name.optional(),
    by: z.object({ time: z.union([whole, name]), mode: name.optional(), trace: given }).optional(),
  }),
  replace: z.object({
    action: z.literal('replace'),
    text: words,
    mime: given,
    subject: words.optional(),
    from: words.optional(),
  }),
  enclose: z.object({
    action: z.literal('enclose'),
    text: words,
    subject: words.optional(),
    headers: list.optional(),
  }),
  convert: z.object({ action: z.literal('convert'), from: name, to: name, parameters: list }),
  error: z.object({ action: z.literal('error'), message: words }),
};

/** The shapes of a table as the tuple that a discriminated union takes. */
function shapesOf<Shape>(table: { readonly [kind: string]: Shape }): [Shape, ...Shape[]] {
  const [first, ...others] = Object.values(table);
  if (!first) throw new Error('an empty table of shapes');
  return [first, ...others];
}

export const furtherTestShapes = [compared, ...Object.values(QUERIES)] as const;
export const furtherActionShapes = Object.values(ACTIONS);
