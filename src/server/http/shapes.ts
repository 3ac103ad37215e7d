import { z } from 'zod';
import { SAME_NAMES } from '../../core/handover/folder-names';
import { NO_LIMITS } from '../../core/handover/target';
import { entryShape, MOST_RULES, namedListShape, profileShape, ruleShape, treeShape } from '../../files/chain-shape';
import { destinationShape } from '../../files/expectation-shape';
import { MOST } from '../handover/announced';

/** Shapes of all requests. */
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
  z.object({ kind: z.literal('profile'), from: profileShape.nullable(), to: profileShape.nullable() }),
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
  /** The description of edits that do not describe themselves. */
  words: z.string().min(1).max(500).optional(),
  /** The earlier change that they undo. */
  undoes: z.int().min(0).optional(),
});

/** Repairs that were each computed for the draft alone. */
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
  // A server may allow none at all (RFC 5804 section 1.7).
  redirects: z.int().min(0).nullable(),
  nesting: limit.default(NO_LIMITS.nesting),
});
const folderText = z
  .string()
  .max(1000)
  .regex(/^[^\p{Cc}]*$/u, 'the name of a folder cannot contain control characters');
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
        .regex(/^[^\p{Cc}]*$/u, 'the name of a list cannot contain control characters'),
    )
    .default({}),
  folders: z
    .object({
      prefix: folderText,
      separator: z.enum(['', '/', '.']),
      renamed: z.record(z.string().max(1000), folderText.min(1)),
      there: z.array(folderText.min(1)).max(10_000),
    })
    .default({ ...SAME_NAMES, there: [] }),
});
const targetShape = z.enum(['core', 'core and fileinto', 'common', 'everything', 'own']);
const acceptedShape = z.array(z.string().max(2000)).max(20_000);

/** A complete target. */
export const settingsShape = z.object({
  target: targetShape,
  capabilities: z.array(z.string().max(MOST.length)).max(MOST.capabilities),
  limits: limitsShape,
  choices: choicesShape,
  accepted: acceptedShape,
});

/** Settings of an export; `said`: the capabilities a server announced. */
export const handoverShape = z.object({
  target: targetShape.optional(),
  said: z.string().max(10_000).optional(),
  limits: limitsShape.optional(),
  choices: choicesShape.optional(),
  accepted: acceptedShape.optional(),
});

const scriptName = z.string().trim().min(1, 'the script has no name').max(200);
const port = z.int().min(1).max(65_535);
const trusted = z.string().max(200).nullable();
const password = z.string().max(2000);
export const placeShape = z.object({ host: z.string().trim().min(1, 'the server has no name').max(300), port });
const loginShape = placeShape.extend({
  security: z.enum(['starttls', 'tls', 'plain']),
  trusted,
  user: z.string().min(1, 'the user has no name').max(500),
  password,
});
export const serverShape = z.object({
  login: loginShape,
  request: z.discriminatedUnion('ask', [
    z.object({ ask: z.enum(['look', 'target']) }),
    z.object({ ask: z.literal('fetch'), names: z.array(scriptName).min(1).max(100) }),
    z.object({ ask: z.literal('put'), name: scriptName }),
    z.object({ ask: z.literal('activate'), name: z.string().max(200) }),
  ]),
});

const since = z.int().nullable();

export const mailboxShape = z.union([
  z.object({
    login: loginShape.extend({ sievePort: port.nullable() }),
    request: z.discriminatedUnion('ask', [
      z.object({ ask: z.literal('look'), since }),
      z.object({
        ask: z.literal('fetch'),
        folders: z.array(z.string().min(1).max(1000)).min(1, 'no folder is chosen').max(5000),
        since,
        scripts: z.array(scriptName).max(100),
      }),
    ]),
  }),
  z.object({ password, trusted, request: z.object({ ask: z.literal('again') }) }),
]);

export const standInFaultsShape = z.object({
  drops: z.string().max(40).nullable().optional(),
  refuses: z.string().max(40).nullable().optional(),
  slow: z.int().min(0).max(60_000).optional(),
  refers: z.string().max(200).nullable().optional(),
});

export const wideningShape = z.object({ rule: id, tests: treeShape });

/** Query parameters that contain JSON. */
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

/** The initial contents of a new rule. */
export const beginningShape = z.object({
  tests: testsText,
  folder: z.string().max(500).optional(),
  name: z.string().max(200).default(''),
});
export type Beginning = z.infer<typeof beginningShape>;

/** Why a script is exported although something speaks against it. */
export const overrideShape = z.object({ reason: z.string().trim().min(1, 'there is no reason').max(2000) });

const stepTitle = z.string().min(1).max(4000);
const numbered = z.int().min(0);
export const takingShape = z.object({ steps: z.array(z.string().max(100)).min(1, 'no step is named').max(2000) });
export const declinedShape = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('step'), what: stepTitle, reason: z.string().trim().max(2000).default('') }),
  z.object({ kind: z.literal('question'), what: numbered }),
  z.object({ kind: z.literal('made'), what: z.string().max(32) }),
]);
/** Where the user wants a message to end. */
export const wantedShape = z.object({ message: numbered, destination: destinationShape });
export const givenShape = wantedShape.extend({
  scope: treeShape,
  name: z.string().trim().min(1, 'the answer has no name').max(200),
});

/** A rule being edited; its name may be empty. */
export const writtenShape = z.object({ rule: ruleShape, begun: ruleShape.nullable(), behind: id.nullable() });

/** Most rules that are counted while they are typed. */
const MOST_TYPED = 2000;
/** Rules being typed in, which may have faults. */
export const typedShape = z.object({ rules: z.array(ruleShape).max(MOST_TYPED) });

export const auditNameShape = z.object({
  name: z.string().trim().min(1, 'the name is empty').max(200, 'the name is longer than 200 characters'),
});

export const pathShape = z.object({ path: z.string().trim().min(1, 'the path is empty').max(4000) });

const folder = z.string().trim().min(1, 'the folder has no name').max(500);
/** What a folder of the stored mail means, such as sent mail. */
export const folderShape = z.object({ from: z.string().max(500), to: folder });

export const addressesShape = z.object({ addresses: z.array(z.string().trim().max(500)).max(500) });

/** Whether sent messages take part. */
export const sentShape = z.object({ included: z.boolean() });

/** The current date that rules see, in milliseconds since 1970; null for the time when each message arrived. */
export const clockShape = z.object({ time: z.int().min(0).max(Date.UTC(2200, 0)).nullable() });

export const asideShape = z.object({
  key: z.string().min(1).max(1000),
  reason: z.string().trim().min(1, 'the reason is empty').max(2000),
});
export const asideKeyShape = z.object({ key: z.string().min(1).max(1000) });

export const jobShape = z.object({ kind: z.enum(['simulate', 'verify']) });

export const ruleQueryShape = z.object({ rule: id });
export const foundQueryShape = z.object({ words: z.string().max(200) });

export const absenceQueryShape = z.object({ number: z.coerce.number().int().min(0) });
export const originsQueryShape = z.object({ destination: z.string().min(1).max(1000) });
export const reportQueryShape = z.object({ form: z.enum(['html', 'markdown']), discreet: z.literal('1').optional() });
/** A header field that names the places of messages; null for the folders of the files. */
export const placeFieldShape = z.object({ field: z.string().trim().min(1).max(200).nullable() });

/** What is applied to stored mail (the chain, or one rule alone), and to which mail. */
export const refileScopeShape = z.object({ rule: id.optional(), mail: z.enum(['all', 'inbox']).default('all') });
export type RefileScope = z.infer<typeof refileScopeShape>;

export const refiledQueryShape = refileScopeShape.extend({ form: z.enum(['mbox', 'maildir']) });

/** A made-up message as text; octets that are not text cannot be in a probe. */
const probeText = z.string().max(1024 * 1024, 'a probe can be at most 1 MB');
export const tryShape = z.object({ text: probeText });
export const probeShape = z.object({
  name: z.string().trim().min(1, 'the probe has no name').max(200),
  text: probeText,
  expected: z.string().max(2000).nullable(),
});

const places = z.array(z.string().max(1000)).max(100);
/** One number of the plan for stored mail: a move from places to others, or a part of the balance of one place. */
const refiledShape = z.union([
  refileScopeShape.extend({ from: places, to: places }),
  refileScopeShape.extend({
    place: z.string().max(1000),
    part: z.enum(['before', 'left', 'came', 'after', 'gone']),
    of: z.enum(['messages', 'conversations', 'unread']).default('messages'),
  }),
]);
export type RefiledSelection = z.infer<typeof refiledShape>;

export const messageQueryShape = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
  rule: id.optional(),
  /** Which messages of the rule: those that reach it, match it, or are acted on. */
  part: z.enum(['reached', 'held', 'exempt', 'fired', 'stopped']).default('fired'),
  fate: z.string().max(1000).optional(),
  finding: z.string().max(1000).optional(),
  /** Words anywhere in a message. */
  search: z.string().max(200).optional(),
  head: z.string().max(200).optional(),
  /** Part of the sender's name or address. */
  from: z.string().max(200).optional(),
  /** Part of the subject. */
  subject: z.string().max(200).optional(),
  /** An address that the message came from or went to. */
  person: z.string().max(500).optional(),
  /** Its folder. */
  folder: z.string().max(500).optional(),
  list: z.string().max(500).optional(),
  /** The own address it was delivered to. */
  account: z.string().max(500).optional(),
  /** The first and last day of its date. */
  since: z.iso.date().optional(),
  until: z.iso.date().optional(),
  /** The number of any message of a conversation. */
  conversation: z.coerce.number().int().min(0).optional(),
  /** JSON of one number of the plan for stored mail. */
  refiled: jsonText(refiledShape, 'not a number of the plan').optional(),
  /** Messages imported together, and the file of this line of the report. */
  source: id.optional(),
  file: z.coerce.number().int().min(0).optional(),
  unseen: z.literal('1').optional(),
  attached: z.literal('1').optional(),
  /** Whether it offers a way to unsubscribe. */
  unsubscribe: z.enum(['offered', 'none']).optional(),
  /** No rule acts. */
  untouched: z.literal('1').optional(),
  /** The user sent them. */
  sent: z.literal('1').optional(),
  /** No rule stops them; only the implicit keep delivers them (RFC 5228 section 2.10.2); several rules act. */
  passing: z.enum(['foot', 'implicit', 'once', 'often']).optional(),
  changed: z.literal('1').optional(),
  /** The two chains to compare, if not the draft and the imported chain. */
  between: z
    .string()
    .regex(/^(baseline|draft|\d{1,9})\.\.(baseline|draft|\d{1,9})$/)
    .optional(),
  /**
   * Of the messages whose fate differs: with this pair of destinations without flags; affected by one change; acted on
   * by a rule in only one of the chains.
   */
  was: z.string().max(2000).optional(),
  becomes: z.string().max(2000).optional(),
  /** Both include flags. */
  flags: z.literal('1').optional(),
  change: z.coerce.number().int().min(0).optional(),
  mover: id.optional(),
  /** Messages that the differences of the script affect. */
  costs: z.literal('1').optional(),
  /** Messages that match these tests. */
  tests: testsText.optional(),
  /**
   * JSON of previewed changes: messages whose fate they would change, or that go from `was` to `becomes`; with
   * `written`, messages this rule would newly act on.
   */
  trying: jsonText(z.array(editShape).max(100), 'no changes').optional(),
  written: id.optional(),
  does: z.enum(['fired', 'untaken', 'gained', 'lost']).optional(),
  /** Messages that do not meet an expectation; or all that it applies to. */
  breaks: z.coerce.number().int().min(0).optional(),
  about: z.coerce.number().int().min(0).optional(),
  /** Of a step of the plan: messages whose place speaks for it, or against it. */
  step: z.string().max(100).optional(),
  says: z.enum(['agreeing', 'opposing']).optional(),
  oddities: z.literal('1').optional(),
});

export type MessageQuery = z.infer<typeof messageQueryShape>;
