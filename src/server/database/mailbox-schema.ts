import { index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import type { ScriptInUse } from '../mailbox/scripts';
import { audits, json } from './schema';

/** The mail server of an audit. Sign-in details other than the user are never stored. */
export const mailServers = sqliteTable('mail_server', {
  auditId: text()
    .primaryKey()
    .references(() => audits.id, { onDelete: 'cascade' }),
  host: text().notNull(),
  /** Of IMAP. */
  port: integer().notNull(),
  security: text({ enum: ['starttls', 'tls', 'plain'] }).notNull(),
  user: text().notNull(),
  /** Of ManageSieve; null if scripts are not asked for. */
  sievePort: integer(),
  /** The folders to fetch, as the server lists them. */
  folders: json<readonly string[]>().notNull(),
  /** Their names in the audit, where the user has renamed them. */
  renamed: json<Readonly<Record<string, string>>>().notNull().default({}),
  /** Only mail that arrived on this day or later, in milliseconds since 1970; null for all mail. */
  since: integer(),
});

/** What the last server that an audit was connected to announced about scripts (RFC 5804 section 1.7). */
export const announcements = sqliteTable('announcement', {
  auditId: text()
    .primaryKey()
    .references(() => audits.id, { onDelete: 'cascade' }),
  host: text().notNull(),
  capabilities: json<readonly string[]>().notNull(),
  maxRedirects: integer(),
  createdAt: integer().notNull(),
});

/** Certificates that no authority vouches for, and that the user has compared. */
export const trustedCertificates = sqliteTable(
  'trusted_certificate',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    host: text().notNull(),
    port: integer().notNull(),
    /** Of SHA-256. */
    fingerprint: text().notNull(),
    createdAt: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.auditId, table.host, table.port] })],
);

/** Where messages are on the server: several may be one stored message. */
export const fetchedMessages = sqliteTable(
  'fetched_message',
  {
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    /** As the server lists it. */
    folder: text().notNull(),
    /** UIDVALIDITY of the folder (RFC 9051 section 2.3.1.1). */
    validity: text().notNull(),
    uid: integer().notNull(),
    number: integer().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.auditId, table.folder, table.validity, table.uid] }),
    index('fetched_by_number').on(table.auditId, table.number),
  ],
);

/** What was found each time when mail was fetched. */
export const looks = sqliteTable(
  'look',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    auditId: text()
      .notNull()
      .references(() => audits.id, { onDelete: 'cascade' }),
    /** Its new messages; null if there are none. */
    sourceId: text(),
    startedAt: integer().notNull(),
    /** Null while it is under way. */
    finishedAt: integer(),
    /** New messages, messages whose flags have changed, and messages that are no longer on the server. */
    added: integer().notNull().default(0),
    flagged: integer().notNull().default(0),
    gone: integer().notNull().default(0),
    /** What ended it early or was left out, in plain words; empty for nothing. */
    trouble: text().notNull().default(''),
    /** The script in use on the server; null if it was not asked for. */
    script: json<ScriptInUse>(),
    /** Keys of the confirmed findings before, and the hash of the chain they are about; null if it was not audited. */
    before: json<{ readonly chain: string; readonly findings: readonly string[] }>(),
  },
  (table) => [index('look_of_audit').on(table.auditId, table.id)],
);
