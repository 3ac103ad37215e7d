import type { MboxEntry } from '../../core/mail/mbox';
import { placeOf } from '../../core/mail/places';

/** A message found in a file, with what its path tells about it. */
export interface FoundMail extends MboxEntry {
  readonly folder: string;
  readonly flags: readonly string[];
  /** When it arrived, in milliseconds since 1970, if its path tells. */
  readonly received: number | null;
  /** Whether its path alone makes it a message, whatever it contains. */
  readonly single: boolean;
  /** Whether `flags` are all that it has, whatever its Status fields say. */
  readonly hasAllFlags?: boolean;
  /** The path of its file within the archive or folder; null if there is none. */
  readonly path: string | null;
}

/** A skipped file, and the reason, for the user. */
export interface PassedOver {
  readonly path: string;
  readonly reason: string;
}

/** Why a whole file cannot be read, in plain words. */
export class Unreadable extends Error {}

export interface MailFileSettings {
  /** The name under which the file was imported. */
  readonly name: string;
  /** The folder for messages whose path names none. */
  readonly folder: string;
  /** Called often with the number of octets read so far; may throw to stop reading. */
  readonly progress: (done: number, total: number) => void;
  /** Whether an error was thrown by `progress` to stop reading, rather than caused by the file. */
  readonly isEnd: (error: unknown) => boolean;
  readonly passOver: (passed: PassedOver) => void;
  /** Called for each folder of a Maildir, whether or not a message is in it. */
  readonly foundFolder?: (folder: string) => void;
}

/** What a format of mail reads with. */
export interface Reading extends MailFileSettings {
  /** Whether a file that starts like this is plain mail, not an archive or document. */
  readonly isPlain: (head: Uint8Array) => boolean;
}

/** Messages of a file in their order, some at once. */
export type FoundMails = AsyncGenerator<readonly FoundMail[]>;

/** Reads the messages of a file of the given size in octets. */
export type ReadMail = (file: string, total: number, settings: Reading) => FoundMails;

/** For a message whose path tells nothing. */
export const UNPLACED = { flags: [], received: null, single: false, path: null } as const;

/** A Maildir folder is recognised by its `cur`, even when that is empty. */
export function tellFolder(path: string, settings: MailFileSettings): void {
  if (/(^|\/)cur$/.test(path)) settings.foundFolder?.(placeOf(`${path}/1`, settings.folder).folder);
}
