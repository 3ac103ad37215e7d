import { z } from 'zod';
import { NO_LIMITS } from '../../core/handover/target';
import { entryShape, MOST_RULES, namedListShape, ruleShape, treeShape } from '../../files/chain-shape';

/** What may come over the wire. */
const id = z.string().min(1).max(100);
const place = z.int().min(0);
const ending = z.enum(['continue', 'stop']);
const address = z.string().min(1).max(500);

export const editShape = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('move'),
    ids: z.array(id).min(1).max(MOST_RULES),
    from: place,
    to: place,
    withinRun: z.boolean(),
  }),
  z.object({ kind: z.literal('switch'), id, on: z.boolean() }),
  z.object({ kind: z.literal('ending'), id, from: ending, to: ending }),
  z.object({ kind: z.literal('account'), id, from: address.nullable(), to: address.nullable() }),
  z.object({ kind: z.literal('list'), id, from: namedListShape.nullable(), to: namedListShape.nullable() }),
  z.object({
    kind: z.literal('rewrite'),
    from: place,
    before: z.array(entryShape).max(MOST_RULES),
    after: z.array(entryShape).max(MOST_RULES),
    closing: z.object({ before: z.string(), after: z.string() }),
  }),
]);

export const editsShape = z.object({
  edits: z.array(editShape).min(1).max(10_000),
  why: z.string().max(2000).default(''),
  /** What is said of them, where they do not say it themselves. */
  words: z.string().min(1).max(500).optional(),
});

/** Changes that were each made out for the draft by itself. */
export const togetherShape = z.object({
  proposed: z
    .array(z.object({ title: z.string().max(2000), edits: z.array(editShape).min(1).max(10_000) }))
    .min(1)
    .max(200),
});

export const rowIdShape = z.coerce.number().int().min(0);
export const takeBackShape = z.object({ change: z.int().min(0) });
const chainRef = z.union([z.enum(['baseline', 'draft']), z.int().min(0)]);
export const compareShape = z.object({ before: chainRef, after: chainRef });
export const versionShape = z.object({
  name: z.string().trim().min(1, 'the version has no name').max(200, 'the name is longer than 200 characters'),
});

const limit = z.int().min(1).nullable();
const limitsShape = z.object({
  strings: limit,
  octets: limit,
  // None at all is what a server may allow (RFC 5804 section 1.7).
  redirects: z.int().min(0).nullable(),
  nesting: limit.default(NO_LIMITS.nesting),
});
const choicesShape = z.object({
  refused: z.enum(['dropped', 'kept']),
  off: z.enum(['left out', 'as comments']),
  unsayable: z.record(id, z.enum(['left out', 'as a comment', 'without'])),
  lists: z
    .record(
      id,
      z
        .string()
        .trim()
        .min(1)
        .max(500)
        .regex(/^[^\p{Cc}]*$/u, 'the name of a list holds no control characters'),
    )
    .default({}),
});
const targetShape = z.enum(['core', 'core and fileinto', 'common', 'everything', 'own']);
const acceptedShape = z.array(z.string().max(2000)).max(20_000);

/** For whom a script is written, whole. */
export const settingsShape = z.object({
  target: targetShape,
  capabilities: z.array(z.string().max(200)).max(500),
  limits: limitsShape,
  choices: choicesShape,
  accepted: acceptedShape,
});

/** What is set of a hand-over; `said`: what a server says of itself. */
export const handoverShape = z.object({
  target: targetShape.optional(),
  said: z.string().max(10_000).optional(),
  limits: limitsShape.optional(),
  choices: choicesShape.optional(),
  accepted: acceptedShape.optional(),
});

const scriptName = z.string().trim().min(1, 'the script has no name').max(200);
export const serverShape = z.object({
  login: z.object({
    host: z.string().trim().min(1, 'the server has no name').max(300),
    port: z.int().min(1).max(65_535),
    security: z.enum(['starttls', 'tls', 'plain']),
    trusted: z.string().max(200).nullable(),
    user: z.string().min(1, 'the user has no name').max(500),
    password: z.string().max(2000),
  }),
  request: z.discriminatedUnion('ask', [
    z.object({ ask: z.enum(['look', 'target']) }),
    z.object({ ask: z.literal('fetch'), names: z.array(scriptName).min(1).max(100) }),
    z.object({ ask: z.literal('put'), name: scriptName }),
    z.object({ ask: z.literal('activate'), name: z.string().max(200) }),
  ]),
});

export const standInFaultsShape = z.object({
  drops: z.string().max(40).nullable().optional(),
  refuses: z.string().max(40).nullable().optional(),
  slow: z.int().min(0).max(60_000).optional(),
  refers: z.string().max(200).nullable().optional(),
});

export const wideningShape = z.object({ rule: id, tests: treeShape });

/** What stands in addresses as JSON. */
const jsonText = <T>(shape: z.ZodType<T>, issue: string) =>
  z
    .string()
    .max(100_000)
    .transform((text, context): T => {
      try {
        return shape.parse(JSON.parse(text));
      } catch {
        context.addIssue(issue);
        return z.NEVER;
      }
    });
const testsText = jsonText(treeShape, 'no tests');

/** What a new rule begins with. */
export const beginningShape = z.object({
  tests: testsText,
  folder: z.string().max(500).optional(),
  name: z.string().max(200).default(''),
});
export type Beginning = z.infer<typeof beginningShape>;

const folderOfFate = z.string().trim().min(1, 'the folder has no name').max(500);
export const expectationShape = z.object({
  name: z.string().trim().min(1, 'the expectation has no name').max(200),
  tests: treeShape,
  must: z.discriminatedUnion('must', [
    z.object({ must: z.enum(['reach the inbox', 'not be dropped', 'be kept', 'not be sent outside']) }),
    z.object({ must: z.literal('end in'), folder: folderOfFate }),
  ]),
});

/** A rule that is being written; its name may still be missing. */
export const writtenShape = z.object({ rule: ruleShape, begun: ruleShape.nullable(), behind: id.nullable() });

export const auditNameShape = z.object({
  name: z.string().trim().min(1, 'the name is empty').max(200, 'the name is longer than 200 characters'),
});

export const pathShape = z.object({ path: z.string().trim().min(1, 'the path is empty').max(4000) });

const folder = z.string().trim().min(1, 'the folder has no name').max(500);
/** What a folder of the stored mail stands for. */
export const folderShape = z.object({ from: z.string().max(500), to: folder });

export const addressesShape = z.object({ addresses: z.array(z.string().trim().max(500)).max(500) });

/** Whether messages that the user sent take part. */
export const sentShape = z.object({ included: z.boolean() });

/** The time that rules see, in milliseconds since 1970; null for the time at which each message arrived. */
export const clockShape = z.object({ time: z.int().min(0).max(Date.UTC(2200, 0)).nullable() });

export const asideShape = z.object({
  key: z.string().min(1).max(1000),
  reason: z.string().trim().min(1, 'the reason is empty').max(2000),
});
export const asideKeyShape = z.object({ key: z.string().min(1).max(1000) });

export const jobShape = z.object({ kind: z.enum(['simulate', 'verify']) });

export const ruleQueryShape = z.object({ rule: id });

export const absenceQueryShape = z.object({ number: z.coerce.number().int().min(0) });
export const originsQueryShape = z.object({ destination: z.string().min(1).max(1000) });
export const reportQueryShape = z.object({ form: z.enum(['html', 'markdown']), discreet: z.literal('1').optional() });
export const refiledQueryShape = z.object({ form: z.enum(['mbox', 'maildir']) });

/** A made-up message, in characters; octets that are none stand in no probe. */
const probeText = z.string().max(1024 * 1024, 'a probe takes at most 1 MB');
export const tryShape = z.object({ text: probeText });
export const probeShape = z.object({
  name: z.string().trim().min(1, 'the probe has no name').max(200),
  text: probeText,
  expected: z.string().max(2000).nullable(),
});

const moveShape = z.tuple([z.string(), z.array(z.string())]);

export const messageQueryShape = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
  rule: id.optional(),
  /** What of the rule's flow: those that reach it, for which it holds, or that fire it. */
  part: z.enum(['reached', 'held', 'exempt', 'fired', 'stopped']).default('fired'),
  fate: z.string().max(1000).optional(),
  finding: z.string().max(1000).optional(),
  /** Words anywhere in a message. */
  search: z.string().max(200).optional(),
  /** Characters in the name or address of the sender. */
  from: z.string().max(200).optional(),
  /** Characters in the subject. */
  subject: z.string().max(200).optional(),
  /** An address that the message came from or went to. */
  person: z.string().max(500).optional(),
  /** Where it lies now. */
  folder: z.string().max(500).optional(),
  list: z.string().max(500).optional(),
  /** The own address that it was delivered to. */
  account: z.string().max(500).optional(),
  /** The first day and the last one, of the date it bears. */
  since: z.iso.date().optional(),
  until: z.iso.date().optional(),
  /** The number of any message of a conversation. */
  conversation: z.coerce.number().int().min(0).optional(),
  /** JSON of a move of the re-filing plan: from where, and to which folders. */
  moved: jsonText(moveShape, 'not a move').optional(),
  /** What came in together, and of it the file of this line of the report. */
  source: id.optional(),
  file: z.coerce.number().int().min(0).optional(),
  unseen: z.literal('1').optional(),
  attached: z.literal('1').optional(),
  /** No rule fires. */
  untouched: z.literal('1').optional(),
  /** The user sent them. */
  sent: z.literal('1').optional(),
  /** No rule ends them; nothing but the implicit keep keeps them (RFC 5228 section 2.10.2); several rules fire. */
  passing: z.enum(['foot', 'implicit', 'often']).optional(),
  changed: z.literal('1').optional(),
  /** Which two chains are compared, where that is not the draft with what was brought in. */
  between: z
    .string()
    .regex(/^(baseline|draft|\d{1,9})\.\.(baseline|draft|\d{1,9})$/)
    .optional(),
  /** Of those that end elsewhere: that ended here and end there, flags aside; whose fate one change altered; that fire a rule in one of the two only. */
  was: z.string().max(2000).optional(),
  becomes: z.string().max(2000).optional(),
  /** Both are said with flags. */
  flags: z.literal('1').optional(),
  change: z.coerce.number().int().min(0).optional(),
  mover: id.optional(),
  /** That end otherwise than by the rules, by what the script costs. */
  costs: z.literal('1').optional(),
  /** For which these hold. */
  tests: testsText.optional(),
  /**
   * JSON of changes that are looked at: whose fate they would change, or that go from `was` to `becomes` by them; with `written`, what
   * this rule would do then, and does not now.
   */
  trying: jsonText(z.array(editShape).max(100), 'no changes').optional(),
  written: id.optional(),
  does: z.enum(['fired', 'untaken', 'gained', 'lost']).optional(),
  /** That an expectation is about and that end otherwise; or all that it is about. */
  breaks: z.coerce.number().int().min(0).optional(),
  about: z.coerce.number().int().min(0).optional(),
  oddities: z.literal('1').optional(),
});

export type MessageQuery = z.infer<typeof messageQueryShape>;
