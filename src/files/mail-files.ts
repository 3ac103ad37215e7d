import { createReadStream } from 'node:fs';
import { open, readdir, readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { crc32, createGunzip, inflateRawSync } from 'node:zlib';
import { extract } from 'tar-stream';
import { type Entry, openPromise, type ZipFile } from 'yauzl';
import { MBOX_DEFAULTS, type MboxEntry, MessageTooLarge, readMbox } from '../core/mail/mbox';
import { placeOf } from '../core/mail/places';
import { joinOctets } from '../core/text/octets';
import { DamagedArchive, readMail } from './archive-file';

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

const UNPLACED = { flags: [], received: null, single: false, path: null } as const;

/** `document`: JSON, which may be an audit with its mail. */
export type FileKind = 'zip' | 'gzip' | 'tar' | 'document' | 'mail';

/** What a file is by its first octets. */
export function fileKind(head: Uint8Array): FileKind {
  const text = Buffer.from(head.subarray(0, 512)).toString('latin1');
  if (text.startsWith('PK\u0003\u0004') || text.startsWith('PK\u0005\u0006')) return 'zip';
  if (text.startsWith('\u001f\u008b')) return 'gzip';
  if (/^(?:\u00ef\u00bb\u00bf)?\s*\{\s*"/.test(text)) return 'document';
  return text.slice(257, 262) === 'ustar' ? 'tar' : 'mail';
}

/** A file that unpacks to so many times its size, and beyond this size, is taken for a trap. */
const MOST_RATIO = 200;
const RATIO_FROM = 256 * 1024 * 1024;
const MOST_FILES = 2_000_000;

/** A file within a folder, by its path from there. */
interface InnerFile {
  readonly path: string;
  readonly octets: number;
}

/**
 * All files within a folder and the folders in it, in the order of their names. Links are not followed, so that none leads
 * out of the folder or around in it; whatever is neither a file nor a folder is passed over too.
 */
export async function filesWithin(
  root: string,
  passOver: (passed: PassedOver) => void = () => {},
  enter: (folder: string) => void = () => {},
): Promise<InnerFile[]> {
  const files: InnerFile[] = [];
  const look = async (folder: string, path: string): Promise<void> => {
    const entries = await readdir(folder, { withFileTypes: true });
    for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
      const inner = path === '' ? entry.name : `${path}/${entry.name}`;
      const full = join(folder, entry.name);
      if (entry.isDirectory()) {
        enter(inner);
        await look(full, inner);
      } else if (!entry.isFile()) passOver({ path: inner, reason: 'a link or a device, no file' });
      else if (files.push({ path: inner, octets: (await stat(full)).size }) > MOST_FILES) {
        throw new Unreadable('it holds too many files');
      }
    }
  };
  await look(root, '');
  return files;
}

/** A folder of a Maildir is there with its `cur`, even where that is empty. */
function tellFolder(path: string, settings: MailFileSettings): void {
  if (/(^|\/)cur$/.test(path)) settings.foundFolder?.(placeOf(`${path}/1`, settings.folder).folder);
}

/** Reads all messages of all files within a folder: a Maildir, folders of them, mbox files, archives, .eml files. */
async function* mailWithin(root: string, settings: MailFileSettings): AsyncGenerator<FoundMail> {
  const files = await filesWithin(root, settings.passOver, (path) => tellFolder(path, settings));
  const total = files.reduce((sum, { octets }) => sum + octets, 0);
  let before = 0;
  const maildirs = new Set(files.flatMap(({ path }) => /^((?:.*\/)?)(?:cur|new)\/[^/]*$/.exec(path)?.[1] ?? []));
  for (const { path, octets } of files) {
    settings.progress(before, total);
    const unfinished = /^((?:.*\/)?)tmp\/[^/]*$/.exec(path)?.[1];
    if (unfinished !== undefined && maildirs.has(unfinished)) {
      settings.passOver({ path, reason: 'a delivery that was never finished' });
      continue;
    }
    const file = join(root, path);
    const inner: MailFileSettings = { ...settings, progress: (done) => settings.progress(before + done, total) };
    if (octets > 0 && fileKind(await headOf(file)) !== 'mail') {
      const { folder } = placeOf(path.replace(/(\.(zip|tar|tgz|gz))+$/i, ''), settings.folder);
      yield* mailInArchive(file, path, { ...inner, name: path, folder });
    } else {
      let done = 0;
      const chunks = counted(createReadStream(file, { highWaterMark: 1 << 18 }), (more) => {
        done += more;
        inner.progress(done, total);
      });
      yield* mailInStream(path, chunks, settings);
    }
    before += octets;
  }
}

/** An archive within a folder: what cannot be read of it is passed over, so that the rest of the folder is read. */
async function* mailInArchive(file: string, path: string, settings: MailFileSettings): AsyncGenerator<FoundMail> {
  const inner = (own: string | null) => (own === null ? path : `${path}/${own}`);
  const passOver = (one: PassedOver) => settings.passOver({ ...one, path: inner(one.path) });
  try {
    for await (const found of mailIn(file, { ...settings, passOver })) yield { ...found, path: inner(found.path) };
  } catch (error) {
    if (!(error instanceof Unreadable)) throw error;
    settings.passOver({ path, reason: error.message });
  }
}

/** Reads all messages of a file or of all files within a folder: an mbox, one message, or a zip or tar archive of such files; a stream, nothing is held whole. */
export async function* mailIn(file: string, settings: MailFileSettings): AsyncGenerator<FoundMail> {
  const found = await stat(file);
  if (found.isDirectory()) {
    yield* mailWithin(file, settings);
    return;
  }
  const total = found.size;
  const kind = fileKind(await headOf(file));
  if (kind === 'zip') {
    yield* mailInZip(file, total, settings);
    return;
  }
  if (kind === 'document') {
    yield* mailInDocument(file, total, settings);
    return;
  }
  let done = 0;
  const chunks = counted(createReadStream(file, { highWaterMark: 1 << 20 }), (octets) => {
    done += octets;
    settings.progress(done, total);
  });
  if (kind === 'mail') {
    if (/\.eml$/i.test(settings.name)) yield* mailByItself(chunks, settings);
    else yield* mboxOrMessage(file, chunks, settings);
    return;
  }
  const plain = kind === 'gzip' ? unpacked(chunks, total, settings) : chunks;
  const [inner, stream] = await peeked(plain);
  if (fileKind(inner) === 'tar') yield* mailInTar(stream, settings);
  else yield* mailInStream('', stream, settings);
}

/** The mail of an audit that was written to a file. */
async function* mailInDocument(file: string, total: number, settings: MailFileSettings): AsyncGenerator<FoundMail> {
  try {
    for await (const { mail, done } of readMail(file)) {
      settings.progress(Math.min(done, total), total);
      const { raw, ...place } = mail;
      yield { ...place, raw: Buffer.from(raw, 'base64'), offset: 0, single: true, path: null };
    }
  } catch (error) {
    if (error instanceof DamagedArchive) throw new Unreadable(error.message);
    throw error;
  }
}

/** An mbox; or a file that begins with a header field and in which no separator stands, which is one message to the octet. */
async function* mboxOrMessage(
  file: string,
  chunks: AsyncIterable<Uint8Array>,
  settings: MailFileSettings,
): AsyncGenerator<FoundMail> {
  const at = { ...UNPLACED, folder: settings.folder };
  let first: MboxEntry | null = null;
  for await (const entry of readMbox(chunks, MBOX_DEFAULTS)) {
    if (
      entry.fromLine === null &&
      /^[!-9;-~]+[ \t]*:/.test(Buffer.from(entry.raw.subarray(0, 200)).toString('latin1'))
    ) {
      first = entry;
      continue;
    }
    if (first) yield { ...first, ...at };
    first = null;
    yield { ...entry, ...at };
  }
  if (!first) return;
  const oddities = first.oddities.filter((oddity) => oddity === 'nul');
  yield { ...first, oddities, raw: await readFile(file), ...at, single: true };
}

/** A message in a file of its own. */
async function* mailByItself(source: AsyncIterable<Uint8Array>, settings: MailFileSettings): AsyncGenerator<FoundMail> {
  const name = settings.name.replace(/^.*[/\\]/, '');
  for await (const found of mailInStream(name, source, settings)) yield { ...found, path: null };
}

async function headOf(file: string): Promise<Uint8Array> {
  const handle = await open(file);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(512), 0, 512, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

async function* counted(
  source: AsyncIterable<Uint8Array>,
  count: (octets: number) => void,
): AsyncGenerator<Uint8Array> {
  for await (const chunk of source) {
    count(chunk.length);
    yield chunk;
  }
}

async function* unpacked(
  source: AsyncIterable<Uint8Array>,
  packed: number,
  settings: MailFileSettings,
): AsyncGenerator<Uint8Array> {
  const count = unpackedMeter(packed);
  const gunzip = createGunzip();
  const fed = feed(source, gunzip);
  try {
    for await (const chunk of gunzip as AsyncIterable<Uint8Array>) {
      count(chunk.length);
      yield chunk;
    }
  } catch (error) {
    throw asUnreadable(error, 'gzip', settings);
  } finally {
    fed.destroy();
    gunzip.destroy();
  }
}

const TRAP = 'it unpacks to more than two hundred times its size';
const WRONG_CHECKSUM = 'damaged: wrong checksum';

/** Is told of all that comes out of an archive of a size; throws where that is a trap, however its entries share their octets. */
function unpackedMeter(packed: number): (octets: number) => void {
  let unpacked = 0;
  return (octets) => {
    unpacked += octets;
    if (unpacked > RATIO_FROM && unpacked > packed * MOST_RATIO) throw new Unreadable(TRAP);
  };
}

function asUnreadable(error: unknown, kind: string, settings: MailFileSettings): unknown {
  const told = error instanceof Unreadable || error instanceof MessageTooLarge;
  if (told || settings.isEnd(error) || !(error instanceof Error)) return error;
  const { code } = error as NodeJS.ErrnoException;
  const reason = DAMAGES[code ?? ''] ?? error.message.replace(/\.$/, '');
  return new Unreadable(`the ${kind} archive is damaged: ${reason}`);
}

const WRONG_SIZE = 'a file in it has another size than it says';

/** By the codes of zlib. */
const DAMAGES: Readonly<Record<string, string>> = {
  Z_BUF_ERROR: 'it is cut off',
  Z_DATA_ERROR: 'wrong checksum, or its octets were changed',
  ERR_BUFFER_TOO_LARGE: WRONG_SIZE,
};

/** Lets a source run into a stream; its error becomes the stream's, which `pipe` alone would leave waiting for ever. */
function feed(
  source: AsyncIterable<Uint8Array>,
  into: NodeJS.WritableStream & { destroy(error?: Error): unknown },
): Readable {
  const fed = Readable.from(source);
  fed.on('error', (error) => into.destroy(error));
  fed.pipe(into);
  return fed;
}

/** The first octets of a stream, and the stream with them. */
async function peeked(source: AsyncIterable<Uint8Array>): Promise<[Uint8Array, AsyncIterable<Uint8Array>]> {
  const iterator = source[Symbol.asyncIterator]();
  const first: Uint8Array[] = [];
  for (let length = 0; length < 512; ) {
    const { value, done } = await iterator.next();
    if (done) break;
    first.push(value);
    length += value.length;
  }
  const head = joinOctets(first);
  const whole = async function* () {
    if (head.length > 0) yield head;
    for (;;) {
      const { value, done } = await iterator.next();
      if (done) return;
      yield value;
    }
  };
  return [head, whole()];
}

/** The messages of one file of an archive. */
async function* mailInStream(
  path: string,
  source: AsyncIterable<Uint8Array>,
  settings: MailFileSettings,
): AsyncGenerator<FoundMail> {
  const place = placeOf(path, settings.folder);
  const at = { ...place, path: path === '' ? null : path };
  const [head, stream] = await peeked(source);
  const text = Buffer.from(head).toString('latin1');
  const reason = head.length === 0 ? 'empty' : fileKind(head) === 'mail' ? null : 'an archive within an archive';
  const mbox = /^[\r\n]*From /.test(text);
  if (reason || !(mbox || place.single || /^[!-9;-~]+:/.test(text))) {
    settings.passOver({ path, reason: reason ?? 'no mail' });
    return;
  }
  if (mbox) {
    for await (const entry of readMbox(stream, MBOX_DEFAULTS)) yield { ...entry, ...at };
    return;
  }
  const parts: Uint8Array[] = [];
  let octets = 0;
  for await (const chunk of stream) {
    octets += chunk.length;
    if (octets > MBOX_DEFAULTS.largest) throw new MessageTooLarge(0);
    parts.push(chunk);
  }
  const raw = joinOctets(parts);
  yield { fromLine: null, raw, offset: 0, oddities: raw.includes(0) ? ['nul'] : [], ...at };
}

async function* mailInTar(source: AsyncIterable<Uint8Array>, settings: MailFileSettings): AsyncGenerator<FoundMail> {
  const archive = extract();
  const fed = feed(withSmallHeaders(source), archive);
  let files = 0;
  try {
    for await (const entry of archive) {
      if (++files > MOST_FILES) throw new Unreadable('it holds too many files');
      if (entry.header.type === 'file')
        yield* mailInStream(entry.header.name, entry as AsyncIterable<Uint8Array>, settings);
      else if (entry.header.type === 'directory') tellFolder(entry.header.name.replace(/\/+$/, ''), settings);
      else settings.passOver({ path: entry.header.name, reason: 'a link or a device, no file' });
      entry.resume();
    }
  } catch (error) {
    throw asUnreadable(error, 'tar', settings);
  } finally {
    fed.destroy();
  }
}

/** A header that only names the file behind it is held whole by whoever reads the archive; so large it names none. */
const LARGEST_HEADER = 1024 * 1024;
const BLOCK = 512;

/** A tar archive as it comes; throws where one of the headers that name files (IEEE Std 1003.1, pax; GNU's long names) is too large. */
async function* withSmallHeaders(source: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const header = Buffer.alloc(BLOCK);
  let filled = 0;
  let left = 0;
  for await (const chunk of source) {
    for (let at = 0; at < chunk.length; ) {
      if (left > 0) {
        const skipped = Math.min(left, chunk.length - at);
        left -= skipped;
        at += skipped;
        continue;
      }
      const taken = Math.min(BLOCK - filled, chunk.length - at);
      header.set(chunk.subarray(at, at + taken), filled);
      filled += taken;
      at += taken;
      if (filled < BLOCK) continue;
      filled = 0;
      const size = sizeIn(header);
      const type = String.fromCharCode(header[156] as number);
      if ('xgLK'.includes(type) && size > LARGEST_HEADER) throw new Unreadable('the name of a file in it is too long');
      left = Math.ceil(size / BLOCK) * BLOCK;
    }
    yield chunk;
  }
}

/** Octal digits, or as GNU writes large numbers: in base 256 behind a bit that says so. */
function sizeIn(header: Buffer): number {
  if (((header[124] as number) & 0x80) !== 0) return header.readUIntBE(130, 6);
  return Number.parseInt(header.toString('latin1', 124, 136).replace(/[^0-7].*$/s, ''), 8) || 0;
}

async function* mailInZip(file: string, total: number, settings: MailFileSettings): AsyncGenerator<FoundMail> {
  let archive: ZipFile | null = null;
  let done = 0;
  try {
    // Names are decoded here: a path out of the archive only names a folder, and is no reason to refuse the rest.
    archive = await openPromise(file, { decodeStrings: false, lazyEntries: true, autoClose: false });
    if (archive.entryCount > MOST_FILES) throw new Unreadable('it holds too many files');
    const unpacked = unpackedMeter(total);
    for await (const entry of archive.eachEntry()) {
      done += entry.compressedSize;
      settings.progress(Math.min(done, total), total);
      const path = nameOf(entry);
      if (path.endsWith('/')) {
        tellFolder(path.slice(0, -1), settings);
        continue;
      }
      const trouble = troubleWith(entry);
      if (trouble) {
        settings.passOver({ path, reason: trouble });
        continue;
      }
      const octets = await soundEntry(archive, entry, unpacked);
      if (octets === null) settings.passOver({ path, reason: WRONG_CHECKSUM });
      else yield* mailInStream(path, octets, settings);
    }
  } catch (error) {
    throw asUnreadable(error, 'zip', settings);
  } finally {
    archive?.close();
  }
}

/** An entry up to this size is unpacked at once: hundreds of thousands of streams, one for each, would take memory and time. */
const SMALL = 256 * 1024;
/** The compression method Deflate (APPNOTE.TXT section 4.4.5). */
const DEFLATED = 8;

async function smallEntry(archive: ZipFile, entry: Entry): Promise<Uint8Array> {
  const packed: Uint8Array[] = [];
  const stream = await archive.openReadStreamPromise(entry, { decompress: false });
  for await (const chunk of stream as AsyncIterable<Uint8Array>) packed.push(chunk);
  // One octet more than it says is enough to tell; zlib asks for chunks of 64 at least.
  const most = entry.uncompressedSize + 1;
  const octets = inflateRawSync(Buffer.concat(packed), { maxOutputLength: most, chunkSize: Math.max(most, 64) });
  if (octets.length !== entry.uncompressedSize) throw new Error(WRONG_SIZE);
  return octets;
}

/** An entry up to this size is held while its checksum is worked out; a larger one is unpacked twice. */
const HELD = 8 * 1024 * 1024;

/** The octets of an entry; null where they do not have the checksum that the archive gives. Nothing of it is taken before that is known. */
async function soundEntry(
  archive: ZipFile,
  entry: Entry,
  count: (octets: number) => void,
): Promise<AsyncIterable<Uint8Array> | null> {
  if (entry.compressionMethod === DEFLATED && Math.max(entry.compressedSize, entry.uncompressedSize) <= SMALL) {
    const octets = await smallEntry(archive, entry);
    count(octets.length);
    return crc32(octets) === entry.crc32 ? Readable.from([octets]) : null;
  }
  const held: Uint8Array[] = [];
  const isHeld = entry.uncompressedSize <= HELD;
  let checksum = 0;
  for await (const chunk of (await archive.openReadStreamPromise(entry)) as AsyncIterable<Uint8Array>) {
    count(chunk.length);
    checksum = crc32(chunk, checksum);
    if (isHeld) held.push(chunk);
  }
  if (checksum !== entry.crc32) return null;
  return isHeld ? Readable.from(held) : archive.openReadStreamPromise(entry);
}

const nameOf = ({ fileName }: Entry): string =>
  typeof fileName === 'string' ? fileName : new TextDecoder().decode(fileName as unknown as Uint8Array);

function troubleWith(entry: Entry): string | null {
  if (entry.isEncrypted()) return 'encrypted';
  const { compressedSize, uncompressedSize } = entry;
  return uncompressedSize > RATIO_FROM && uncompressedSize > compressedSize * MOST_RATIO ? TRAP : null;
}
