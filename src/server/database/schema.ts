import { sql } from 'drizzle-orm';
import { blob, index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import type { HandoverRecord } from '../../core/handover/verify';
import type { FolderUse } from '../../core/mail/places';
import type { Expectation } from '../../core/repair/expectations';
import type { Edit } from '../../core/rules/edit';
import type { Chain } from '../../core/rules/rule';
import type { Verdict } from '../changes/verdicts';
import type { Oddity } from '../gather/oddities';
import type { HandoverSettings } from '../handover/handover';
import type { FileLine } from '../jobs/file-report';
import type { JobRequest } from '../jobs/job';
import type { ChangeOrigin, KeptPlan } from '../plan/kept';

/** A column that stores a value as JSON. */
export const json = <T>() => text({ mode: 'json' }).$type<T>();

/** An audit. */
export const audits = sqliteTable('audit', {
  id: text().primaryKey(),
  name: text().notNull(),
  createdAt: integer().notNull(),
  /** The imported chain; edits are applied on top of it. */
  chain: json<Chain>().notNull(),
  /** The version of its chains and edits; see `CHAIN_FORMAT`. */
  chainFormat: integer().notNull().default(0),
  /** Most frequent first. */
  ownAddresses: json<readonly string[]>().notNull(),
  /** Whether the user has confirmed them. */
  addressesConfirmed: integer({ mode: 'boolean' }).notNull().default(false),
  /** Messages are numbered from 0 to this, exclusive; only complete imports count. */
  messageCount: integer().notNull(),
  /** The current date that rules see, in milliseconds since 1970; null for the time when each message arrived. */
  clock: integer(),
  /** Whether sent messages take part in flows and findings. */
  withSent: integer({ mode: 'boolean' }).notNull().default(false),
  /** Messages that only removed sources contain. They keep their numbers, so that the sources can be restored. */
  removedCount: integer().notNull().default(0),
  /** Increases whenever a source is removed or restored: results computed before are out of date. */
  mailEdition: integer().notNull().default(0),
  /** The header field that names the places of messages, in lower case; null for the folders of the files. */
  placeField: text(),
  /** The field by which messages were placed, and how many of them were looked at. */
  placedField: text(),
  placedCount: integer().notNull().default(0),
  /** What folders are for, where their server says so (RFC 6154 section 2). */
  folderUses: json<Readonly<Record<string, FolderUse>>>().notNull().default({}),
  /** The version of the reader that made its columns; see `READER`. */
  reader: integer().notNull().default(0),
  /** Distinguishes audits in the full-text index, whose rows have only a number as key. */
  ordinal: integer().notNull().default(0),
  /** Whether it is being deleted: it is invisible, and its rows are deleted in steps. */
  deleted: integer({ mode: 'boolean' }).notNull().default(false),
});

/** An imported script, word for word. */
export const scripts = sqliteTable('script', {
  id: text().primaryKey(),
  auditId: text()
    .notNull()
    .references(() => audits.id, { onDelete: 'cascade' }),
  fileName: text().notNull(),
  digest: text().notNull(),
  source: text().notNull(),
  rules: integer().notNull(),
  blocks: integer().notNull(),
  /** Each as `line:column: message`. */
  faults: json<readonly string[]>().notNull(),
  /** The ids of the entries concerned, null for none; as long as `faults`, or shorter. */
  faultEntries: json<readonly (string | null)[]>().notNull().default([]),
  /** The ids of the entries made from it. */
  entries: json<readonly string[]>().notNull().default([]),
  createdAt: integer().notNull(),
});

/** The receipt of a file that was dropped, chosen, named or fetched, until the user dismisses it. */
export const receipts = sqliteTable(
  'receipt',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    fileName: text().notNull(),
    outcome: text({ enum: ['taken', 'refused', 'there'] }).notNull(),
    /** The kind of the file. */
    kind: text({ enum: ['script', 'mail'] }),
    /** The script or source made from it, or imported earlier with the same contents. */
    target: text(),
    words: text().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [index('receipt_of_audit').on(table.auditId, table.id)],
);

/** A file of mail, imported or being imported. */
export const sources = sqliteTable('source', {
  id: text().primaryKey(),
  auditId: text()
    .notNull()
    .references(() => audits.id, { onDelete: 'cascade' }),
  fileName: text().notNull(),
  digest: text().notNull(),
  /** Its path on the server's machine; null for an uploaded file. */
  path: text(),
  /** The mailbox that it was fetched from, as `user on host`; null for a file. */
  mailbox: text(),
  folder: text().notNull(),
  bytes: integer().notNull(),
  state: text({ enum: ['importing', 'ready', 'removed', 'refused', 'cancelled', 'interrupted'] }).notNull(),
  firstMessage: integer().notNull(),
  messages: integer().notNull(),
  /** Messages already in their folder; they are stored once. */
  repeated: integer().notNull().default(0),
  /** Notes about the file in plain words; empty if there are none. */
  statement: text().notNull(),
  /** The result for each file of an archive or folder. */
  files: json<readonly FileLine[]>().notNull().default([]),
  /** Its folders; some may be empty. */
  folders: json<readonly string[]>().notNull().default([]),
  createdAt: integer().notNull(),
});

export const messages = sqliteTable(
  'message',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    /** The number of the message in the audit: its index in bitmaps. */
    number: integer().notNull(),
    sourceId: text().notNull(),
    folder: text().notNull(),
    /** All its places, if a header field names several. */
    places: json<readonly string[]>(),
    /** What its file tells, if a header field names its places. */
    asFile: json<{ readonly folder: string; readonly outgoing: 0 | 1 }>(),
    /** In lower case. */
    flags: json<readonly string[]>().notNull(),
    messageId: text(),
    subject: text().notNull(),
    fromName: text().notNull(),
    fromAddress: text().notNull(),
    toAddresses: text().notNull(),
    /** Milliseconds since 1970, from the Date field. */
    date: integer(),
    /** The time of arrival: from the mbox separator, the Maildir file name, or the topmost Received field. */
    received: integer(),
    /** In lower case, from List-Id (RFC 2919). */
    listId: text(),
    /** The address it was delivered to, in lower case, if the message names it. */
    deliveredTo: text(),
    /** Whether it is the author's own copy; see `isOutgoing`. */
    outgoing: integer({ mode: 'boolean' }).notNull().default(false),
    /** MIME parts that are not shown as text. */
    attachments: integer().notNull().default(0),
    /** SHA-256, half of it, in base64url: of its octets without what was written when it was stored. */
    digest: text().notNull().default(''),
    /** Octets as stored. */
    octets: integer().notNull(),
    /** Octets with every line ended by CRLF: the size that tests compare. */
    size: integer().notNull(),
    fromLine: text(),
    oddities: json<readonly Oddity[]>().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.auditId, table.number] }),
    index('message_by_content').on(table.auditId, table.digest),
    index('message_by_folder').on(table.auditId, table.folder, table.flags, table.number),
    index('message_by_author').on(table.auditId, sql`lower(from_address)`, table.number).where(sql`outgoing`),
    index('message_by_date').on(table.auditId, sql`date desc`, table.number),
  ],
);

/**
 * Messages that a source contains but that an earlier one brought: each message is stored once per folder. Also all messages
 * of a source whose numbers are not consecutive.
 */
export const repeats = sqliteTable(
  'repeat',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    sourceId: text().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.auditId, table.number, table.sourceId] }),
    index('repeat_of_source').on(table.auditId, table.sourceId, table.number),
  ],
);

/** The octets of messages, deflated: consecutive ones together, a large one in several pieces. See `RawBlocks`. */
export const rawPieces = sqliteTable(
  'raw_piece',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    piece: integer().notNull(),
    /** Messages in it. */
    count: integer().notNull().default(1),
    data: blob({ mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.number, table.piece] })],
);

/** A column of consecutive messages: deflated JSON of `[number - first, values][]`. */
export const columnPieces = sqliteTable(
  'column_piece',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    column: text().notNull(),
    first: integer().notNull(),
    data: blob({ mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.column, table.first] })],
);

/** Bitmaps of atoms over the first `count` messages. */
export const atoms = sqliteTable(
  'atom',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    key: text().notNull(),
    count: integer().notNull(),
    bits: blob({ mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.key] })],
);

/** Data about the mail as a whole, computed over the first `count` messages, as deflated JSON. */
export const knowledge = sqliteTable(
  'knowledge',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    topic: text().notNull(),
    count: integer().notNull(),
    data: blob({ mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.topic] })],
);

/** Made-up messages to try on the chain, some with an expected fate. */
export const probes = sqliteTable(
  'probe',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    raw: blob({ mode: 'buffer' }).notNull(),
    /** The fate as one line; null if none is expected. */
    expected: text(),
    createdAt: integer().notNull(),
  },
  (table) => [index('probe_of_audit').on(table.auditId, table.id)],
);

/** Findings of one chain over the first `count` messages; see `PackedResult`. */
export const analyses = sqliteTable(
  'analysis',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    chainHash: text().notNull(),
    count: integer().notNull(),
    statements: blob({ mode: 'buffer' }).notNull(),
    repairs: blob({ mode: 'buffer' }).notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.chainHash] })],
);

/** Findings set aside by the user. They return when the facts they were set aside for change. */
export const setAsideFindings = sqliteTable(
  'aside',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    /** The key of the finding. */
    key: text().notNull(),
    /** A digest of its claim and rules. */
    facts: text().notNull(),
    reason: text().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.key] })],
);

/** The change history. Undone changes stay until another change is made. */
export const changes = sqliteTable(
  'change',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    edits: json<readonly Edit[]>().notNull(),
    words: text().notNull(),
    /** The claim of the finding that it repairs, or empty. */
    why: text().notNull(),
    changedMessages: integer().notNull(),
    undone: integer({ mode: 'boolean' }).notNull(),
    /** The step of the plan that it is; null for other changes. */
    origin: json<ChangeOrigin>(),
    /** The earlier change that it undoes alone. */
    undoes: integer(),
    createdAt: integer().notNull(),
  },
  (table) => [index('change_of_audit').on(table.auditId, table.id)],
);

/** Cached answers of proofs, by question. */
export const answers = sqliteTable(
  'answer',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    question: text().notNull(),
    answer: json<Verdict>().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.question] })],
);

/** Chains saved under a name. */
export const versions = sqliteTable(
  'version',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    chain: json<Chain>().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [index('version_of_audit').on(table.auditId, table.id)],
);

/** Expectations, which must be met after every change. */
export const expectations = sqliteTable(
  'expectation',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    statement: json<Expectation>().notNull(),
    /** The message about which the user was asked; null for expectations that are no answers. */
    message: integer(),
    createdAt: integer().notNull(),
  },
  (table) => [index('expectation_of_audit').on(table.auditId, table.id)],
);

/** The plan for the draft, as far as it was worked out. */
export const plans = sqliteTable('plan', {
  auditId: text()
    .primaryKey()
    .references(() => audits.id, { onDelete: 'cascade' }),
  /** What the plan was worked out for: the chain with its findings, and what the user has said. */
  base: text().notNull(),
  said: text().notNull(),
  plan: json<KeptPlan>().notNull(),
});

/** Changes that the user does not want, and messages they do not want to be asked about. */
export const declined = sqliteTable(
  'declined',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    kind: text({ enum: ['step', 'question', 'made'] }).notNull(),
    /** The title of the change, the number of the message, or the key of the made-up one. */
    what: text().notNull(),
    reason: text().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.kind, table.what] })],
);

/** The target of the exported script, and the decisions for it. Rows of earlier versions may lack later fields. */
export const handovers = sqliteTable('handover', {
  auditId: text()
    .primaryKey()
    .references(() => audits.id, { onDelete: 'cascade' }),
  settings: json<Partial<HandoverSettings>>().notNull(),
});

/** The reason for which a script may be exported although something speaks against it. */
export const overrides = sqliteTable('override', {
  auditId: text()
    .primaryKey()
    .references(() => audits.id, { onDelete: 'cascade' }),
  /** What spoke against it, as `GateView.items` names it. */
  items: json<readonly string[]>().notNull(),
  reason: text().notNull(),
  createdAt: integer().notNull(),
});

/** Exported scripts, word for word. */
export const handed = sqliteTable(
  'handed',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    /** Where it went: a file, or a server with the script's name. */
    place: text().notNull(),
    script: text().notNull(),
    scriptHash: text().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [index('handed_of_audit').on(table.auditId, table.id)],
);

/** Records of verified exports. */
export const verifications = sqliteTable(
  'verification',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    chainHash: text().notNull(),
    count: integer().notNull(),
    scriptHash: text().notNull(),
    record: json<HandoverRecord>().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.chainHash] })],
);

export const jobs = sqliteTable('job', {
  id: text().primaryKey(),
  auditId: text()
    .notNull()
    .references(() => audits.id, { onDelete: 'cascade' }),
  kind: text({
    enum: ['import', 'fetch', 'simulate', 'verify', 'weigh', 'foresee', 'repairs', 'compare', 'plan'],
  }).notNull(),
  parameters: json<JobRequest>().notNull(),
  state: text({ enum: ['waiting', 'running', 'done', 'failed', 'cancelled', 'interrupted'] }).notNull(),
  message: text().notNull(),
  createdAt: integer().notNull(),
  finishedAt: integer(),
});
