import type { MailMessage } from './message';

/** What the path of a file within a mailbox or an archive says of the messages in it. */
export interface MailPlace {
  readonly folder: string;
  /** In lower case, as IMAP names them; from the name of a file in a Maildir. */
  readonly flags: readonly string[];
  /** Whether the file is one message by its place: it lies in a Maildir, or is named .eml. */
  readonly single: boolean;
  /** When it arrived, in milliseconds since 1970, where the name of a file in a Maildir tells. */
  readonly received: number | null;
}

/** The letters behind ":2," in the name of a message in a Maildir (common practice). */
const MAILDIR_FLAGS = { D: '\\draft', F: '\\flagged', P: '$forwarded', R: '\\answered', S: '\\seen', T: '\\deleted' };

/**
 * `path` is relative, with either slash. Files in `cur` and `new` belong to the folder around them, whose own name may be
 * dotted (`.Archive.2020`); a file of its own kind is a folder of its name, without the ending; `.eml` files belong to the
 * folder they lie in. `otherwise` is the folder of what lies in none.
 */
export function placeOf(path: string, otherwise: string): MailPlace {
  const parts = path.split(/[/\\]+/).filter((part) => part !== '' && part !== '.' && part !== '..');
  const name = parts.pop() ?? '';
  const around = parts[parts.length - 1];
  if (around === 'cur' || around === 'new') {
    const letters = /[:;!_]2,([A-Za-z]*)$/.exec(name)?.[1] ?? '';
    const flags = Object.entries(MAILDIR_FLAGS).flatMap(([letter, flag]) => (letters.includes(letter) ? [flag] : []));
    const seconds = /^(\d{9,10})\./.exec(name)?.[1];
    const received = seconds === undefined ? null : Number(seconds) * 1000;
    return { folder: folderName(parts.slice(0, -1), otherwise), flags, single: true, received };
  }
  if (/\.eml$/i.test(name)) return { folder: folderName(parts, otherwise), flags: [], single: true, received: null };
  const stem = name.replace(/\.(mbox|mbx|txt)$/i, '');
  // A folder kept as a folder of the file system, with one file in it that holds the messages.
  const own = /^(mbox|messages)$/i.test(stem) && parts.length > 0 ? [] : [stem];
  return { folder: folderName([...parts, ...own], otherwise), flags: [], single: false, received: null };
}

/** The letters that a file in a Maildir carries for flags; what has no letter is left out. */
export function storedFlagLetters(flags: readonly string[]): string {
  return Object.entries(MAILDIR_FLAGS)
    .flatMap(([letter, flag]) => (flags.includes(flag) ? [letter] : []))
    .join('');
}

function folderName(parts: readonly string[], otherwise: string): string {
  const named = parts.flatMap((part) => {
    if (part.startsWith('.')) return part.slice(1).split('.');
    return [part.replace(/\.(mbox|mbx|sbd)$/i, '')];
  });
  const name = named.filter((part) => part !== '' && !/^maildir$/i.test(part)).join('/');
  if (name === '') return otherwise;
  return name.toUpperCase() === 'INBOX' ? 'INBOX' : name;
}

/**
 * Fields that only delivery adds: Received and Return-Path (RFC 5321 section 4.4), Delivered-To (RFC 9228), X-Original-To and
 * Envelope-To (common practice).
 */
const ARRIVAL_FIELDS: ReadonlySet<string> = new Set([
  'received',
  'return-path',
  'delivered-to',
  'x-original-to',
  'envelope-to',
]);

/** Names of folders of sent mail in many languages (common practice). */
const SENT_FOLDER =
  /(^|[/.\s])(sent|outbox|gesendet|envoy|enviad|inviat|verzonden|skickat|sendt|wys[lł]ane|отправ|送信|已发送)/i;

/** Whether a folder, by its name, holds copies of what was sent. */
export const isSentFolder = (folder: string): boolean => SENT_FOLDER.test(folder);

/**
 * Whether a message is the copy that its author kept: it bears no trace of having arrived, or is in a folder of sent mail, where
 * some servers keep the traces of submission. Sent by the user, if its author is the user.
 */
export function isOutgoing({ fields }: MailMessage, folder: string | null): boolean {
  if (folder !== null && isSentFolder(folder)) return true;
  return !fields.some(({ name }) => ARRIVAL_FIELDS.has(name.toLowerCase()));
}
