import { accessSync, constants, statfsSync } from 'node:fs';
import { dirname } from 'node:path';
import { codeOf } from '../../files/undeclared';

/** Why a database cannot be worked with. */
export type TroubleKind = 'full' | 'read-only' | 'damaged' | 'newer' | 'unreachable';

/** A database that cannot be worked with; its message says why, `remedy` what to do. */
export class DatabaseTrouble extends Error {
  constructor(
    readonly kind: TroubleKind,
    readonly file: string,
    cause?: unknown,
  ) {
    super(WORDS[kind].what(file), { cause });
  }

  /** Whether SQLite itself or a full disk is the cause: any file that is missing or may not be read has the other codes. */
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
    remedy: 'Make room on that disk. Nothing is lost.',
  },
  'read-only': {
    what: (file) => `The database ${file} cannot be written: its disk, its folder or the file is read-only.`,
    remedy: 'Allow the server to write there, or set YSOMERIS_DATABASE to another file and start it again.',
  },
  damaged: {
    what: (file) => `The database ${file} is damaged.`,
    remedy:
      'Put a backup of the file in its place. To begin without one, move the file and those beside it (-wal, -shm) elsewhere; audits that were downloaded can be opened again.',
  },
  newer: {
    what: (file) => `The database ${file} was written by a newer version of Ysomeris.`,
    remedy:
      'Start that version, or set YSOMERIS_DATABASE to another file and start this one again. Nothing was changed.',
  },
  unreachable: {
    what: (file) => `The database ${file} cannot be opened.`,
    remedy: 'Look whether its folder exists and whether its disk works.',
  },
};

const READ_ONLY = new Set(['EACCES', 'EPERM', 'EROFS']);
const FULL = new Set(['ENOSPC', 'EDQUOT']);
/** Octets below which a disk counts as full: SQLite needs some room beside the database to open it. */
const NO_ROOM = 256 * 1024;

/** What of the database's own state an error tells; null where it is none of its matters. */
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
  // Files that SQLite keeps beside a database fail in their own ways where it cannot write them.
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
