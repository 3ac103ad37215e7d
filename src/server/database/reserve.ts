import { closeSync, existsSync, openSync, rmSync, statfsSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';
import { sql } from 'drizzle-orm';
import { codeOf } from '../../files/undeclared';
import { databaseFile, type Store } from './open';

/**
 * Room that is kept beside a database: SQLite writes even what it deletes to its log first, so that on a full disk nothing could
 * be deleted to make room.
 */
const RESERVE = 16 * 1024 * 1024;
/** Octets that must be free before room is kept, so that keeping it fills no disk. */
const ENOUGH = 16 * RESERVE;

const reserveFile = (file: string): string => `${file}.reserve`;

/** Keeps the room, where there is enough. */
export function keepReserve(file: string): void {
  const reserve = reserveFile(file);
  try {
    const { bavail, bsize } = statfsSync(dirname(file));
    if (existsSync(reserve) || bavail * bsize < ENOUGH) return;
    // Zeros that are really written take room; a file that is only made long may not.
    const handle = openSync(reserve, 'wx');
    const block = Buffer.alloc(1024 * 1024);
    for (let at = 0; at < RESERVE; at += block.length) writeSync(handle, block);
    closeSync(handle);
  } catch {
    rmSync(reserve, { force: true });
  }
}

/** Does something that makes room, with the reserve where there is none without it. */
export function makingRoom<T>(work: () => T): T {
  try {
    return work();
  } catch (error) {
    const reserve = reserveFile(databaseFile());
    if (!isDiskFull(error) || !existsSync(reserve)) throw error;
    rmSync(reserve);
    return work();
  }
}

/** Lets the log begin anew: what is in it is in the database. */
export function emptyLog(store: Store): void {
  store.get(sql`pragma wal_checkpoint(truncate)`);
}

/** Whether an error says, itself or by its cause, that there is no room left on the disk. */
export function isDiskFull(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const code = codeOf(error);
  return code === 'SQLITE_FULL' || code === 'ENOSPC' || code === 'EDQUOT' || isDiskFull(error.cause);
}

export const DISK_FULL = 'There is no room left on the disk of the server.';
