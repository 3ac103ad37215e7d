import { sql } from 'drizzle-orm';
import { blob, index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import type { HandoverRecord } from '../../core/handover/verify';
import type { Expectation } from '../../core/repair/expectations';
import type { Edit } from '../../core/rules/edit';
import type { Chain } from '../../core/rules/rule';
import type { Verdict } from '../changes/verdicts';
import type { Oddity } from '../gather/oddities';
import type { HandoverSettings } from '../handover/handover';
import type { FileLine } from '../jobs/file-report';
import type { JobRequest } from '../jobs/job';

/** A column that holds one value of a type as JSON. */
const json = <T>() => text({ mode: 'json' }).$type<T>();

/** One piece of work. */
export const audits = sqliteTable('audit', {
  id: text().primaryKey(),
  name: text().notNull(),
  createdAt: integer().notNull(),
  /** As it was brought in; edits are applied on top of it. */
  chain: json<Chain>().notNull(),
  /** The form of its chains and edits; see `CHAIN_FORMAT`. */
  chainFormat: integer().notNull().default(0),
  /** The most frequent first. */
  ownAddresses: json<readonly string[]>().notNull(),
  /** Whether the user has confirmed them. */
  addressesConfirmed: integer({ mode: 'boolean' }).notNull().default(false),
  /** Messages are numbered from 0 to this, exclusive; only whole imports count. */
  messageCount: integer().notNull(),
  /** What tests of the current date see, in milliseconds since 1970; null for the time at which each message arrived. */
  clock: integer(),
  /** Whether messages that the user sent take part in flows and findings, like those that arrived. */
  withSent: integer({ mode: 'boolean' }).notNull().default(false),
  /** Messages held by removed sources only. They keep their numbers, so that the sources can be put back. */
  removedCount: integer().notNull().default(0),
  /** Grows whenever a source is removed or put back: what was worked out before no longer holds. */
  mailEdition: integer().notNull().default(0),
  /** The edition of the reader that made its columns; see `READER`. */
  reader: integer().notNull().default(0),
  /** Distinguishes audits within the index of words, whose rows have no other key than one number. */
  ordinal: integer().notNull().default(0),
  /** Whether it is being deleted: nobody sees it any more, and what is left of it goes. */
  deleted: integer({ mode: 'boolean' }).notNull().default(false),
});

/** A script that was brought in, word for word. */
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
  /** The ids of the entries that the faults concern, null for none; as long as `faults`, or shorter. */
  faultEntries: json<readonly (string | null)[]>().notNull().default([]),
  /** The ids of the entries that were made of it; those that are still in the chain stand for it. */
  entries: json<readonly string[]>().notNull().default([]),
  createdAt: integer().notNull(),
});

/** What became of a file that was dropped, chosen, named or fetched; it stays until the user has dismissed it. */
export const receipts = sqliteTable(
  'receipt',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    fileName: text().notNull(),
    outcome: text({ enum: ['taken', 'refused', 'there'] }).notNull(),
    /** What the file was taken as. */
    kind: text({ enum: ['script', 'mail'] }),
    /** The script or the source that was made of it, or that was there already. */
    target: text(),
    words: text().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [index('receipt_of_audit').on(table.auditId, table.id)],
);

/** A file of mail that was brought in, or is being brought in. */
export const sources = sqliteTable('source', {
  id: text().primaryKey(),
  auditId: text()
    .notNull()
    .references(() => audits.id, { onDelete: 'cascade' }),
  fileName: text().notNull(),
  digest: text().notNull(),
  /** Where it is on the machine that the server runs on; null for a file that was sent. */
  path: text(),
  folder: text().notNull(),
  bytes: integer().notNull(),
  state: text({ enum: ['importing', 'ready', 'removed', 'refused', 'cancelled', 'interrupted'] }).notNull(),
  firstMessage: integer().notNull(),
  messages: integer().notNull(),
  /** Messages that their folder held before, to the octet; they are stored once. */
  repeated: integer().notNull().default(0),
  /** What is to be said of the file, in plain words; empty when all is well. */
  statement: text().notNull(),
  /** What became of each file of an archive or a folder. */
  files: json<readonly FileLine[]>().notNull().default([]),
  /** Those that came with it; some may be empty. */
  folders: json<readonly string[]>().notNull().default([]),
  createdAt: integer().notNull(),
});

export const messages = sqliteTable(
  'message',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    /** The number of the message in the audit; bitmaps count by it. */
    number: integer().notNull(),
    sourceId: text().notNull(),
    folder: text().notNull(),
    /** In lower case. */
    flags: json<readonly string[]>().notNull(),
    messageId: text(),
    subject: text().notNull(),
    fromName: text().notNull(),
    fromAddress: text().notNull(),
    toAddresses: text().notNull(),
    /** Milliseconds since 1970, from the Date field. */
    date: integer(),
    /** The same for its arrival: from the mbox separator, the place in a Maildir, or the topmost Received field. */
    received: integer(),
    /** In lower case, from List-Id (RFC 2919). */
    listId: text(),
    /** The address it was delivered to, in lower case, where the message tells. */
    deliveredTo: text(),
    /** Whether it is the copy that its author kept; see `isOutgoing`. */
    outgoing: integer({ mode: 'boolean' }).notNull().default(false),
    /** Parts that are no text to be read with the message. */
    attachments: integer().notNull().default(0),
    /** SHA-256 of its octets, half of it, in base64url. */
    digest: text().notNull().default(''),
    /** Octets as stored. */
    octets: integer().notNull(),
    /** Octets with every line ended by CRLF, which is what size tests compare. */
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

/** Messages that a source holds too, but that came with an earlier one: the same message is stored once in a folder. */
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

/** The octets of messages, deflated, a large message in several pieces. */
export const rawPieces = sqliteTable(
  'raw_piece',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    piece: integer().notNull(),
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

/** What is known of the mail as a whole, worked out over the first `count` messages, as deflated JSON. */
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

/** Made-up messages to try on the chain, some with the fate they must have. */
export const probes = sqliteTable(
  'probe',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    raw: blob({ mode: 'buffer' }).notNull(),
    /** The fate as one line; null where nothing is expected. */
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

/** Findings that the user has set aside. They return when the facts they were set aside for change. */
export const setAsideFindings = sqliteTable(
  'aside',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    /** The key of the finding. */
    key: text().notNull(),
    /** A digest of its claim and of the rules it names. */
    facts: text().notNull(),
    reason: text().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.key] })],
);

/** The history of changes. Undone ones stay until another change is made. */
export const changes = sqliteTable(
  'change',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    edits: json<readonly Edit[]>().notNull(),
    words: text().notNull(),
    /** The claim of the finding that it answers, or empty. */
    why: text().notNull(),
    changedMessages: integer().notNull(),
    undone: integer({ mode: 'boolean' }).notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [index('change_of_audit').on(table.auditId, table.id)],
);

/** What reasoning has answered about chains, by the question. */
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

/** Chains that were kept under a name. */
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

/** Statements about fates that must hold after every change. */
export const expectations = sqliteTable(
  'expectation',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    statement: json<Expectation>().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [index('expectation_of_audit').on(table.auditId, table.id)],
);

/** For whom the script of an audit is written, and what was decided for that. What an earlier version has kept may lack what came later. */
export const handovers = sqliteTable('handover', {
  auditId: text()
    .primaryKey()
    .references(() => audits.id, { onDelete: 'cascade' }),
  settings: json<Partial<HandoverSettings>>().notNull(),
});

/** Scripts that were taken away or handed over, as they were. */
export const handed = sqliteTable(
  'handed',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    /** Where it went: a file, or a server under a name. */
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
  kind: text({ enum: ['import', 'simulate', 'verify', 'weigh', 'foresee', 'repairs', 'compare'] }).notNull(),
  parameters: json<JobRequest>().notNull(),
  state: text({ enum: ['waiting', 'running', 'done', 'failed', 'cancelled', 'interrupted'] }).notNull(),
  message: text().notNull(),
  createdAt: integer().notNull(),
  finishedAt: integer(),
});
