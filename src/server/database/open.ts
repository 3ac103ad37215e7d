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

/** Anything queries can run on: a database, or a transaction. */
export type Store = BaseSQLiteDatabase<'sync', Database.RunResult, typeof schema>;
export type Tx = Parameters<Parameters<Store['transaction']>[0]>[0];

/** An open database. */
export type OpenStore = BetterSQLite3Database<typeof schema> & { readonly $client: Database.Database };

/** The only setting of where data is stored; uploads are beside the database. */
export function databaseFile(): string {
  return resolve(process.env.YSOMERIS_DATABASE ?? [appRoot(), 'data', 'ysomeris.sqlite'].join('/'));
}

export function appRoot(): string {
  return process.env.APP_ROOT ?? process.cwd();
}

/** Page cache in megabytes: lists read the rows of all messages, imports the pages of indexes in any order. */
const CACHE = 128;

/** Octets of the file that are read without being copied. */
const MAPPED = 256 * 1024 * 1024;

/** Opens the database file without migrating it. */
export function openStore(file: string, use: 'ordinary' | 'import' = 'ordinary'): OpenStore {
  mkdirSync(dirname(file), { recursive: true });
  const sqlite = new Database(file);
  sqlite.pragma('journal_mode = WAL');
  sqlite.pragma('synchronous = NORMAL');
  sqlite.pragma('foreign_keys = ON');
  sqlite.pragma('busy_timeout = 10000');
  sqlite.pragma(`cache_size = -${CACHE * 1024}`);
  // An import hardly reads, and mapped pages would count as its memory.
  sqlite.pragma(`mmap_size = ${use === 'import' ? 0 : MAPPED}`);
  sqlite.pragma('temp_store = MEMORY');
  return drizzle(sqlite, { schema, casing: 'snake_case' });
}

export function migrateStore(store: OpenStore): void {
  // Joined by hand, since a bundler evaluates path.join and bakes the path in.
  migrate(store, { migrationsFolder: [appRoot(), 'src', 'server', 'database', 'migrations'].join('/') });
}

/** The connection of an opened store; a transaction object has none. */
export function connectionOf(store: Store): Database.Database {
  if (!('$client' in store)) throw new Error('a transaction has no connection of its own');
  return (store as OpenStore).$client;
}

/**
 * Runs a transaction that holds the write lock from its start. A transaction that reads first and writes later can fail
 * because another wrote in between (SQLITE_BUSY_SNAPSHOT), which waiting does not repair.
 */
export function inTransaction<T>(store: Store, work: (tx: Tx) => T): T {
  return store.transaction(work, { behavior: 'immediate' });
}

/**
 * Makes this process the owner of a database, opens and migrates it. Throws `DatabaseInUse` if another process owns it,
 * `DatabaseTrouble` if it is unusable; neither changes anything.
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

/** Migrations unknown to this version were made by a later one. */
function refuseNewer({ $client }: OpenStore, file: string): void {
  const migrated = $client.prepare("select 1 from sqlite_schema where name = '__drizzle_migrations'").get();
  if (!migrated) return;
  // One number, or null for no row; SQLite's results are untyped.
  const newest = $client.prepare('select max(created_at) from __drizzle_migrations').pluck().get() as number | null;
  const ours = Math.max(...journal.entries.map(({ when }) => when));
  if (newest !== null && newest > ours) throw new DatabaseTrouble('newer', file);
}

/** Larger databases are not checked at the start: damage is reported when it is met. */
const READ_THROUGH = 64 * 1024 * 1024;

function refuseDamaged({ $client }: OpenStore, file: string): void {
  if (statSync(file).size > READ_THROUGH) return;
  if ($client.pragma('quick_check(1)', { simple: true }) !== 'ok') throw new DatabaseTrouble('damaged', file);
}

declare global {
  /** On `globalThis`, where a reloaded module finds it again. */
  var ysomerisStore: OpenStore | undefined;
}

/** The server's connection, opened on first use; throws as `openOwned` does. */
export function store(): OpenStore {
  globalThis.ysomerisStore ??= openOwned(databaseFile(), 'the server');
  return globalThis.ysomerisStore;
}

/** Closes the connection; the next use opens another. */
export function closeStore(): void {
  globalThis.ysomerisStore?.$client.close();
  globalThis.ysomerisStore = undefined;
}
