import { accessSync, constants, statfsSync } from 'node:fs';
import { dirname } from 'node:path';
import { codeOf } from '../../files/undeclared';

/** Why a database is unusable. */
export type TroubleKind = 'full' | 'read-only' | 'damaged' | 'newer' | 'unreachable';

/** A database that is unusable; the message says why, `remedy` what to do. */
export class DatabaseTrouble extends Error {
  constructor(
    readonly kind: TroubleKind,
    readonly file: string,
    cause?: unknown,
  ) {
    super(WORDS[kind].what(file), { cause });
  }

  /** Whether the cause is SQLite itself or a full disk; other missing or unreadable files have other codes. */
  get isOfDatabase(): boolean {
    const code = this.cause instanceof Error ? codeOf(this.cause) : 'SQLITE';
    return this.kind === 'full' || code.startsWith('SQLITE');
  }

  get remedy(): string {
    return WORDS[this.kind].remedy;
  }
}

const WORDS: Readonly<Record<TroubleKind, { readonly what: (file: string) => string; readonly remedy: string }>> = {
  full: {
    what: (file) => `The disk that holds the database ${file} is full.`,
    remedy: 'Nothing is lost. Free some space on this disk.',
  },
  'read-only': {
    what: (file) => `The database ${file} cannot be written: the disk, the folder or the file is read-only.`,
    remedy: 'Allow the server to write there, or set YSOMERIS_DATABASE to another file and restart the server.',
  },
  damaged: {
    what: (file) => `The database ${file} is damaged.`,
    remedy:
      'Replace the file with a backup. To start without one, move the file and its companions (-wal, -shm) elsewhere; exported audits can be opened again.',
  },
  newer: {
    what: (file) => `The database ${file} was written by a newer version of Ysomeris.`,
    remedy:
      'Nothing was changed. Start the newer version, or set YSOMERIS_DATABASE to another file and restart this one.',
  },
  unreachable: {
    what: (file) => `The database ${file} cannot be opened.`,
    remedy: 'Check that its folder exists and that its disk works.',
  },
};

const READ_ONLY = new Set(['EACCES', 'EPERM', 'EROFS']);
const FULL = new Set(['ENOSPC', 'EDQUOT']);
/** A disk with fewer free octets counts as full: SQLite needs some space beside the database to open it. */
const NO_ROOM = 256 * 1024;

/** What an error says about the state of the database; null for unrelated errors. */
export function maybeTrouble(error: unknown, file: string): DatabaseTrouble | null {
  if (error instanceof DatabaseTrouble) return error;
  if (!(error instanceof Error)) return null;
  const code = codeOf(error);
  const kind = kindOf(code, file);
  return kind ? new DatabaseTrouble(kind, file, error) : maybeTrouble(error.cause, file);
}

function kindOf(code: string, file: string): TroubleKind | null {
  if (code === 'SQLITE_FULL' || FULL.has(code)) return 'full';
  if (code.startsWith('SQLITE_READONLY') || READ_ONLY.has(code)) return 'read-only';
  if (code.startsWith('SQLITE_CORRUPT') || code === 'SQLITE_NOTADB') return 'damaged';
  if (!/^SQLITE_(IOERR|CANTOPEN)/.test(code) && !/^E(NOENT|NOTDIR|ISDIR|IO)$/.test(code)) return null;
  // SQLite's companion files fail with codes of their own if they cannot be written.
  if (isFull(file)) return 'full';
  return isReadOnly(file) ? 'read-only' : 'unreachable';
}

function isReadOnly(file: string): boolean {
  try {
    accessSync(dirname(file), constants.W_OK);
    return false;
  } catch (error) {
    return READ_ONLY.has(codeOf(error));
  }
}

function isFull(file: string): boolean {
  try {
    const { bavail, bsize } = statfsSync(dirname(file));
    return bavail * bsize < NO_ROOM;
  } catch {
    return false;
  }
}
