import { mkdirSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { type BetterSQLite3Database, drizzle } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import * as schema from './schema';

export type Store = BetterSQLite3Database<typeof schema> & { $client: Database.Database };

/** The one setting of where data lies; uploads stand beside the database. */
export function databaseFile(): string {
  return resolve(process.env.YSOMERIS_DATABASE ?? [appRoot(), 'data', 'ysomeris.sqlite'].join('/'));
}

export function appRoot(): string {
  return process.env.APP_ROOT ?? process.cwd();
}

/** Opens the database file, without migrating it. */
export function openStore(file: string): Store {
  mkdirSync(dirname(file), { recursive: true });
  const sqlite = new Database(file);
  sqlite.pragma('journal_mode = WAL');
  sqlite.pragma('synchronous = NORMAL');
  sqlite.pragma('foreign_keys = ON');
  sqlite.pragma('busy_timeout = 10000');
  // Lists look at the rows of all messages; with the two megabytes of pages held by default they are read anew each time.
  sqlite.pragma('cache_size = -131072');
  sqlite.pragma('mmap_size = 1073741824');
  sqlite.pragma('temp_store = MEMORY');
  return drizzle(sqlite, { schema, casing: 'snake_case' });
}

export function migrateStore(store: Store): void {
  // Joined by hand: a bundler evaluates path.join and bakes the path in.
  migrate(store, { migrationsFolder: [appRoot(), 'src', 'server', 'database', 'migrations'].join('/') });
}

const held = globalThis as typeof globalThis & { ysomerisStore?: Store };

/** The server's own connection, opened and migrated at its first use. */
export function store(): Store {
  if (!held.ysomerisStore) {
    const opened = openStore(databaseFile());
    migrateStore(opened);
    held.ysomerisStore = opened;
  }
  return held.ysomerisStore;
}
