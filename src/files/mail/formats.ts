import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { placeOf } from '../../core/mail/places';
import { keysOf } from '../../core/text/lookup';
import { readDocument } from './document';
import { filesWithin } from './folder';
import {
  type FoundMails,
  type MailFileSettings,
  type PassedOver,
  type Reading,
  type ReadMail,
  tellFolder,
  Unreadable,
} from './found';
import { readGzip } from './gzip';
import { KEYWORDS_FILE, keywordsIn, keywordsOf } from './keywords';
import { fileChunks, mailInStream, readPlain } from './plain';
import { headOf } from './streams';
import { isTar, readTar } from './tar';
import { readZip } from './zip';

/** A format of mail: how its first octets tell it (one character for each octet), and how to read it as a stream. */
interface MailFormat {
  readonly is: (head: string, octets: Uint8Array) => boolean;
  readonly read: ReadMail;
}

/** The first format that fits is used. */
const FORMATS = {
  zip: { is: (head) => head.startsWith('PK\u0003\u0004') || head.startsWith('PK\u0005\u0006'), read: readZip },
  gzip: { is: (head) => head.startsWith('\u001f\u008b'), read: readGzip },
  /** JSON, which may be an exported audit with its mail. */
  document: { is: (head) => /^(?:\u00ef\u00bb\u00bf)?\s*\{\s*"/.test(head), read: readDocument },
  tar: { is: (_, octets) => isTar(octets), read: readTar },
  /** An mbox or one message: the fallback. */
  mail: { is: () => true, read: readPlain },
} as const satisfies Readonly<Record<string, MailFormat>>;

export type FileKind = keyof typeof FORMATS;

/** The format of a file, from its first octets. */
export function fileKind(octets: Uint8Array): FileKind {
  const head = Buffer.from(octets.subarray(0, 512)).toString('latin1');
  const kinds = keysOf(FORMATS);
  return kinds.find((kind) => FORMATS[kind].is(head, octets)) ?? 'mail';
}

/** Streams all messages of a file, or of all files in a folder: an mbox, one message, or an archive of such files. */
export function mailIn(file: string, settings: MailFileSettings): FoundMails {
  return mailAt(file, { ...settings, isPlain: (head) => fileKind(head) === 'mail' });
}

async function* mailAt(file: string, settings: Reading): FoundMails {
  const found = await stat(file);
  if (found.isDirectory()) yield* mailWithin(file, settings);
  else yield* FORMATS[fileKind(await headOf(file))].read(file, found.size, settings);
}

/** Streams all messages in a folder: a Maildir, folders of them, mbox files, archives, .eml files. */
async function* mailWithin(root: string, settings: Reading): FoundMails {
  const files = await filesWithin(root, settings.passOver, (path) => tellFolder(path, settings));
  const total = files.reduce((sum, { octets }) => sum + octets, 0);
  let before = 0;
  const maildirs = new Set(files.flatMap(({ path }) => maildirAround(path) ?? []));
  const keywords = new Map<string, ReadonlyMap<string, string>>();
  for (const { path, octets } of files) {
    settings.progress(before, total);
    if (isKeywordsFile(path) && maildirs.has(path.slice(0, -KEYWORDS_FILE.length))) continue;
    const unfinished = /^((?:.*\/)?)tmp\/[^/]*$/.exec(path)?.[1];
    if (unfinished !== undefined && maildirs.has(unfinished)) {
      settings.passOver({ path, reason: 'an unfinished delivery' });
      continue;
    }
    const file = join(root, path);
    const inner: Reading = { ...settings, progress: (done) => settings.progress(before + done, total) };
    if (octets > 0 && !settings.isPlain(await headOf(file))) {
      const { folder } = placeOf(path.replace(/(\.(zip|tar|tgz|gz))+$/i, ''), settings.folder);
      yield* mailInArchive(file, path, { ...inner, name: path, folder });
    } else {
      const maildir = maildirAround(path);
      if (maildir !== null && !keywords.has(maildir)) keywords.set(maildir, await keywordsOf(join(root, maildir)));
      const more = maildir === null ? [] : keywordsIn(path, keywords.get(maildir) ?? new Map());
      const found = mailInStream(path, fileChunks(file, octets, inner, 1 << 18), settings);
      if (more.length === 0) yield* found;
      else for await (const some of found) yield some.map((one) => ({ ...one, flags: [...one.flags, ...more] }));
    }
    before += octets;
  }
}

/** The path of the Maildir that a message is in, with its slash; null for other files. */
const maildirAround = (path: string): string | null => /^((?:.*\/)?)(?:cur|new)\/[^/]*$/.exec(path)?.[1] ?? null;

const isKeywordsFile = (path: string): boolean => path === KEYWORDS_FILE || path.endsWith(`/${KEYWORDS_FILE}`);

/** In an archive within a folder, unreadable files are skipped so that the rest of the folder can be read. */
async function* mailInArchive(file: string, path: string, settings: Reading): FoundMails {
  const inner = (own: string | null) => (own === null ? path : `${path}/${own}`);
  const passOver = (one: PassedOver) => settings.passOver({ ...one, path: inner(one.path) });
  try {
    for await (const some of mailAt(file, { ...settings, passOver })) {
      yield some.map((found) => ({ ...found, path: inner(found.path) }));
    }
  } catch (error) {
    if (!(error instanceof Unreadable)) throw error;
    settings.passOver({ path, reason: error.message });
  }
}
