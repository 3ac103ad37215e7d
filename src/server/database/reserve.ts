import { closeSync, existsSync, openSync, rmSync, statfsSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';
import { sql } from 'drizzle-orm';
import { codeOf } from '../../files/undeclared';
import { databaseFile, type Store } from './open';

/**
 * Reserved disk space beside a database: SQLite logs even deletions before applying them, so on a full disk nothing
 * could be deleted to make room.
 */
const RESERVE = 16 * 1024 * 1024;
/** Octets that must be free before space is reserved, so that reserving fills no disk. */
const ENOUGH = 16 * RESERVE;

const reserveFile = (file: string): string => `${file}.reserve`;

/** Reserves the space if there is enough. */
export function keepReserve(file: string): void {
  const reserve = reserveFile(file);
  try {
    const { bavail, bsize } = statfsSync(dirname(file));
    if (existsSync(reserve) || bavail * bsize < ENOUGH) return;
    // Written zeros occupy space; a file that is only extended may not.
    const handle = openSync(reserve, 'wx');
    const block = Buffer.alloc(1024 * 1024);
    for (let at = 0; at < RESERVE; at += block.length) writeSync(handle, block);
    closeSync(handle);
  } catch {
    rmSync(reserve, { force: true });
  }
}

/** Runs something that frees space, releasing the reserve if there is no space without it. */
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

/** Restarts the log; its contents are in the database. On a full disk it stays as it is, and nothing is lost by that. */
export function emptyLog(store: Store): void {
  try {
    store.get(sql`pragma wal_checkpoint(truncate)`);
  } catch (error) {
    if (!isDiskFull(error)) throw error;
  }
}

/** Whether an error, or its cause, means that the disk is full. */
export function isDiskFull(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  const code = codeOf(error);
  return code === 'SQLITE_FULL' || code === 'ENOSPC' || code === 'EDQUOT' || isDiskFull(error.cause);
}

export const DISK_FULL = 'The disk of the server is full. Nothing was changed. Free some space on it, then try again.';
