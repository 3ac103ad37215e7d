import type { MailMessage } from './message';

/** What the path of a file within a mailbox or archive tells about its messages. */
export interface MailPlace {
  readonly folder: string;
  /** In lower case, as IMAP names them; from the name of a file in a Maildir. */
  readonly flags: readonly string[];
  /** Whether the path alone makes the file one message: it is in a Maildir, or named .eml. */
  readonly single: boolean;
  /** When it arrived, in milliseconds since 1970, if the name of a Maildir file tells. */
  readonly received: number | null;
}

/** The letters behind ":2," in the name of a message in a Maildir (common practice). */
const MAILDIR_FLAGS = { D: '\\draft', F: '\\flagged', P: '$forwarded', R: '\\answered', S: '\\seen', T: '\\deleted' };

/**
 * `path` is relative, with either slash. Files in `cur` and `new` belong to the surrounding folder, whose own name may
 * be dotted (`.Archive.2020`); a file of messages is a folder of its name without the extension; `.eml` files belong to
 * the folder they are in. `otherwise` is the folder of files in none.
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
  // A folder stored as a directory with one file that contains its messages.
  const own = /^(mbox|messages)$/i.test(stem) && parts.length > 0 ? [] : [stem];
  return { folder: folderName([...parts, ...own], otherwise), flags: [], single: false, received: null };
}

/** The flag letters in the name of a Maildir file; flags without a letter are left out. */
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

/** Names of folders in which mail is put away as it is, in several languages (common practice), or by year. */
const ARCHIVE =
  /^(archives?|archived|archiv|archivio|archivos?|arquivos?|archief|arkiv|arkisto|arhiva?)$|^(19|20)\d\d(-\d\d)?$/i;

/** Whether a folder is an archive, or within one. */
export const isArchive = (folder: string): boolean => folder.split(/[/.\\]/).some((part) => ARCHIVE.test(part.trim()));

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

/** Whether a folder contains sent mail, by its name. */
export const isSentFolder = (folder: string): boolean => SENT_FOLDER.test(folder);

/** Names of folders of deleted mail (common practice). */
const TRASH = /(^|[/.])(trash|deleted( items| messages)?|bin|papierkorb|corbeille)$/i;

/** What a folder is for (RFC 6154 section 2). */
export type FolderUse = 'sent' | 'archive' | 'trash' | 'junk' | 'drafts';

/** By the attribute that a server lists a folder with; null for any other. */
export const maybeUseSaid = (attribute: string | null): FolderUse | null => USES.get(attribute ?? '') ?? null;

const USES: ReadonlyMap<string, FolderUse> = new Map([
  ['\\Sent', 'sent'],
  ['\\Archive', 'archive'],
  ['\\Trash', 'trash'],
  ['\\Junk', 'junk'],
  ['\\Drafts', 'drafts'],
]);

/** Returns what a folder is for, as its server says or else by its name; null if it is for any mail. */
export function maybeUse(folder: string, said: ReadonlyMap<string, FolderUse>): FolderUse | null {
  const use = said.get(folder);
  if (use !== undefined) return use;
  if (isSentFolder(folder)) return 'sent';
  if (isArchive(folder)) return 'archive';
  return TRASH.test(folder) ? 'trash' : null;
}

/**
 * Whether a message is its author's own copy: it has no trace of delivery, or is in a folder of sent mail or of drafts,
 * where some servers keep traces of submission. If the author is the user, the user sent it. `use` is what the server
 * says of the folder.
 */
export function isOutgoing({ fields }: MailMessage, folder: string | null, use: FolderUse | null = null): boolean {
  if (use === 'sent' || use === 'drafts') return true;
  if (use === null && folder !== null && isSentFolder(folder)) return true;
  return !fields.some(({ name }) => ARRIVAL_FIELDS.has(name.toLowerCase()));
}
