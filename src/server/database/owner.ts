import { mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import Database from 'better-sqlite3';
import { codeOf } from '../../files/undeclared';

/** The process that uses a database. */
export interface Owner {
  readonly process: number;
  /** Such as "the server" or "the seeding of the demo". */
  readonly work: string;
  /** Milliseconds since 1970. */
  readonly since: number;
}

/** Another process uses the database. */
export class DatabaseInUse extends Error {
  constructor(
    readonly file: string,
    readonly owner: Owner | null,
  ) {
    const who = owner
      ? `${owner.work} (process ${owner.process}, since ${new Date(owner.since).toISOString()})`
      : 'another process';
    super(
      `The database ${file} is in use by ${who}. Stop that process first, or set YSOMERIS_DATABASE to another file.`,
    );
  }
}

declare global {
  /** On `globalThis`, where a reloaded module finds it again. */
  var ysomerisOwned: Map<string, Database.Database> | undefined;
}

/** The files this process owns, each with the connection that holds its lock. */
function owned(): Map<string, Database.Database> {
  globalThis.ysomerisOwned ??= new Map();
  return globalThis.ysomerisOwned;
}

/**
 * Makes this process the only user of a database until it ends. The lock is the operating system's, held through an
 * SQLite file beside the database, so a killed process leaves none; the file names the owner. Throws `DatabaseInUse`,
 * having changed nothing, if another process owns it.
 */
export function own(file: string, work: string): void {
  if (owned().has(file)) return;
  mkdirSync(dirname(file), { recursive: true });
  const lock = new Database(`${file}.owner`, { timeout: 0 });
  try {
    take(lock, file);
    lock.exec('create table if not exists owner (process integer, work text, since integer)');
    lock.exec('delete from owner');
    lock.prepare('insert into owner values (?, ?, ?)').run(process.pid, work, Date.now());
    lock.exec('commit');
    // A reserved lock keeps other writers out but lets them read who owns it.
    take(lock, file);
    owned().set(file, lock);
  } catch (error) {
    lock.close();
    throw error;
  }
}

/** Releases a database before the process ends. */
export function disown(file: string): void {
  const lock = owned().get(file);
  if (!lock) return;
  owned().delete(file);
  try {
    lock.exec('delete from owner; commit');
  } catch {
    // On a full disk it stays, of a process that will have ended.
  } finally {
    lock.close();
  }
}

function take(lock: Database.Database, file: string): void {
  try {
    lock.exec('begin immediate');
  } catch (error) {
    const code = codeOf(error);
    throw code?.startsWith('SQLITE_BUSY') ? new DatabaseInUse(file, maybeOwner(lock)) : error;
  }
}

/** Null if it cannot be read: its owner is just writing it, or it names a process that has ended. */
function maybeOwner(lock: Database.Database): Owner | null {
  try {
    const owner = lock.prepare('select process, work, since from owner').get() as Owner | undefined;
    return owner && isAlive(owner.process) ? owner : null;
  } catch {
    return null;
  }
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return codeOf(error) === 'EPERM';
  }
}
