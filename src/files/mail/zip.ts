import { Readable } from 'node:stream';
import { crc32 } from 'node:zlib';
import { type Entry, openPromise, type ZipFile } from 'yauzl';
import { inflated } from '../packing';
import { octetsOf } from '../undeclared';
import { type ReadMail, tellFolder, Unreadable } from './found';
import { mailInStream } from './plain';
import {
  asUnreadable,
  MOST_FILES,
  MOST_RATIO,
  RATIO_FROM,
  TRAP,
  unpackedMeter,
  WRONG_CHECKSUM,
  WRONG_SIZE,
} from './streams';

/** A zip archive of files of mail (APPNOTE.TXT). */
export const readZip: ReadMail = async function* (file, total, settings) {
  let archive: ZipFile | null = null;
  let done = 0;
  try {
    // Names are decoded here. A path that leads out of the archive only names a folder, so it is harmless.
    archive = await openPromise(file, { decodeStrings: false, lazyEntries: true, autoClose: false });
    if (archive.entryCount > MOST_FILES) throw new Unreadable('it contains too many files');
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
};

/** Entries up to this size are unpacked at once: hundreds of thousands of streams would take memory and time. */
const SMALL = 256 * 1024;
/** The compression method Deflate (APPNOTE.TXT section 4.4.5). */
const DEFLATED = 8;

async function smallEntry(archive: ZipFile, entry: Entry): Promise<Uint8Array> {
  const packed: Uint8Array[] = [];
  const stream = await archive.openReadStreamPromise(entry, { decompress: false });
  for await (const chunk of octetsOf(stream)) packed.push(chunk);
  // One octet beyond the declared size reveals a lie; zlib needs chunks of at least 64.
  const most = entry.uncompressedSize + 1;
  const octets = inflated(Buffer.concat(packed), { maxOutputLength: most, chunkSize: Math.max(most, 64) });
  if (octets.length !== entry.uncompressedSize) throw new Error(WRONG_SIZE);
  return octets;
}

/** Entries up to this size are held while their checksum is computed; larger ones are unpacked twice. */
const HELD = 8 * 1024 * 1024;

/**
 * The octets of an entry; null if their checksum is not the one in the archive. Nothing is emitted before the checksum
 * is known.
 */
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
  for await (const chunk of octetsOf(await archive.openReadStreamPromise(entry))) {
    count(chunk.length);
    checksum = crc32(chunk, checksum);
    if (isHeld) held.push(chunk);
  }
  if (checksum !== entry.crc32) return null;
  return isHeld ? Readable.from(held) : archive.openReadStreamPromise(entry);
}

const nameOf = ({ fileName }: Entry): string =>
  typeof fileName === 'string' ? fileName : new TextDecoder().decode(fileName);

function troubleWith(entry: Entry): string | null {
  if (entry.isEncrypted()) return 'encrypted';
  const { compressedSize, uncompressedSize } = entry;
  return uncompressedSize > RATIO_FROM && uncompressedSize > compressedSize * MOST_RATIO ? TRAP : null;
}
