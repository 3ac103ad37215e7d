import type { MboxEntry } from '../../core/mail/mbox';
import { placeOf } from '../../core/mail/places';

/** A message found in a file, with what the place of the file says of it. */
export interface FoundMail extends MboxEntry {
  readonly folder: string;
  readonly flags: readonly string[];
  /** When it arrived, in milliseconds since 1970, where its place tells. */
  readonly received: number | null;
  /** Whether it is a message by its place, whatever it holds. */
  readonly single: boolean;
  /** The path of its file within the archive or the folder; null where it came with neither. */
  readonly path: string | null;
}

/** What is passed over in an archive, and why; told to the user. */
export interface PassedOver {
  readonly path: string;
  readonly reason: string;
}

/** Why a whole file cannot be read, in plain words. */
export class Unreadable extends Error {}

export interface MailFileSettings {
  /** The name under which the file was brought in. */
  readonly name: string;
  /** The folder of messages whose place names none. */
  readonly folder: string;
  /** Called often with how much of the file has been read, in octets; may throw to end the reading. */
  readonly progress: (done: number, total: number) => void;
  /** Whether an error is one by which `progress` ends the reading, and no fault of the file. */
  readonly isEnd: (error: unknown) => boolean;
  readonly passOver: (passed: PassedOver) => void;
  /** Called for each folder of a Maildir, whether or not a message is in it. */
  readonly foundFolder?: (folder: string) => void;
}

/** What a form of mail is read with. */
export interface Reading extends MailFileSettings {
  /** Whether what begins so is mail as it is, and no archive or document. */
  readonly isPlain: (head: Uint8Array) => boolean;
}

/** Reads the messages of a file of so many octets. */
export type ReadMail = (file: string, total: number, settings: Reading) => AsyncGenerator<FoundMail>;

/** Of a message whose place says nothing. */
export const UNPLACED = { flags: [], received: null, single: false, path: null } as const;

/** A folder of a Maildir is there with its `cur`, even where that is empty. */
export function tellFolder(path: string, settings: MailFileSettings): void {
  if (/(^|\/)cur$/.test(path)) settings.foundFolder?.(placeOf(`${path}/1`, settings.folder).folder);
}
