import { mkdirSync, statSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { type BetterSQLite3Database, drizzle } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import type { BaseSQLiteDatabase } from 'drizzle-orm/sqlite-core';
import journal from './migrations/meta/_journal.json';
import { own } from './owner';
import * as schema from './schema';
import { DatabaseTrouble, maybeTrouble } from './trouble';

/** What queries are asked of: a database, or a transaction in it. */
export type Store = BaseSQLiteDatabase<'sync', Database.RunResult, typeof schema>;
export type Tx = Parameters<Parameters<Store['transaction']>[0]>[0];

/** An open database. */
export type OpenStore = BetterSQLite3Database<typeof schema> & { readonly $client: Database.Database };

/** The one setting of where data lies; uploads stand beside the database. */
export function databaseFile(): string {
  return resolve(process.env.YSOMERIS_DATABASE ?? [appRoot(), 'data', 'ysomeris.sqlite'].join('/'));
}

export function appRoot(): string {
  return process.env.APP_ROOT ?? process.cwd();
}

/** Megabytes of pages that a connection caches: lists look at the rows of all messages, an import at few pages again and again. */
const CACHE = { ordinary: 128, import: 32 };

/** Opens the database file, without migrating it. */
export function openStore(file: string, use: keyof typeof CACHE = 'ordinary'): OpenStore {
  mkdirSync(dirname(file), { recursive: true });
  const sqlite = new Database(file);
  sqlite.pragma('journal_mode = WAL');
  sqlite.pragma('synchronous = NORMAL');
  sqlite.pragma('foreign_keys = ON');
  sqlite.pragma('busy_timeout = 10000');
  sqlite.pragma(`cache_size = -${CACHE[use] * 1024}`);
  sqlite.pragma('mmap_size = 1073741824');
  sqlite.pragma('temp_store = MEMORY');
  return drizzle(sqlite, { schema, casing: 'snake_case' });
}

export function migrateStore(store: OpenStore): void {
  // Joined by hand: a bundler evaluates path.join and bakes the path in.
  migrate(store, { migrationsFolder: [appRoot(), 'src', 'server', 'database', 'migrations'].join('/') });
}

/**
 * Runs work as one transaction that has the right to write from its start on. One that reads first and writes then may find that
 * another has written in between (SQLITE_BUSY_SNAPSHOT), which no waiting mends.
 */
export function inTransaction<T>(store: Store, work: (tx: Tx) => T): T {
  return store.transaction(work, { behavior: 'immediate' });
}

/**
 * Makes this process the owner of a database, opens it and brings it up to date. Throws `DatabaseInUse` where another process
 * owns it, `DatabaseTrouble` where it cannot be worked with; neither changes anything.
 */
export function openOwned(file: string, work: string): OpenStore {
  try {
    own(file, work);
    const opened = openStore(file);
    try {
      refuseNewer(opened, file);
      refuseDamaged(opened, file);
      migrateStore(opened);
      return opened;
    } catch (error) {
      opened.$client.close();
      throw error;
    }
  } catch (error) {
    throw maybeTrouble(error, file) ?? error;
  }
}

/** Migrations that this version does not have were made by a later one. */
function refuseNewer({ $client }: OpenStore, file: string): void {
  const migrated = $client.prepare("select 1 from sqlite_schema where name = '__drizzle_migrations'").get();
  if (!migrated) return;
  // One number, or null for no row: what SQLite gives is not declared.
  const newest = $client.prepare('select max(created_at) from __drizzle_migrations').pluck().get() as number | null;
  const ours = Math.max(...journal.entries.map(({ when }) => when));
  if (newest !== null && newest > ours) throw new DatabaseTrouble('newer', file);
}

/** A larger database is not read through at the start: damage in it is told when it is met. */
const READ_THROUGH = 64 * 1024 * 1024;

function refuseDamaged({ $client }: OpenStore, file: string): void {
  if (statSync(file).size > READ_THROUGH) return;
  if ($client.pragma('quick_check(1)', { simple: true }) !== 'ok') throw new DatabaseTrouble('damaged', file);
}

declare global {
  /** Kept where a rebuilt module finds it again. */
  var ysomerisStore: OpenStore | undefined;
}

/** The server's own connection, opened at its first use; throws as `openOwned` does. */
export function store(): OpenStore {
  globalThis.ysomerisStore ??= openOwned(databaseFile(), 'the server');
  return globalThis.ysomerisStore;
}

/** Gives the connection up; the next use opens another. */
export function closeStore(): void {
  globalThis.ysomerisStore?.$client.close();
  globalThis.ysomerisStore = undefined;
}
