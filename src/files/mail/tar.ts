import { extract } from 'tar-stream';
import { elementAt } from '../../core/text/lookup';
import { octetsOf } from '../undeclared';
import { type FoundMails, type Reading, type ReadMail, tellFolder, Unreadable } from './found';
import { fileChunks, mailInStream } from './plain';
import { asUnreadable, feed, MOST_FILES } from './streams';

/** IEEE Std 1003.1, ustar and pax. */
export const isTar = (head: Uint8Array): boolean => Buffer.from(head.subarray(257, 262)).toString('latin1') === 'ustar';

/** A tar archive of files of mail. */
export const readTar: ReadMail = (file, total, settings) => mailInTar(fileChunks(file, total, settings), settings);

export async function* mailInTar(source: AsyncIterable<Uint8Array>, settings: Reading): FoundMails {
  const archive = extract();
  const fed = feed(withSmallHeaders(source), archive);
  let files = 0;
  try {
    for await (const entry of archive) {
      if (++files > MOST_FILES) throw new Unreadable('it contains too many files');
      if (entry.header.type === 'file') yield* mailInStream(entry.header.name, octetsOf(entry), settings);
      else if (entry.header.type === 'directory') tellFolder(entry.header.name.replace(/\/+$/, ''), settings);
      else settings.passOver({ path: entry.header.name, reason: 'a link or a device, not a file' });
      entry.resume();
    }
  } catch (error) {
    throw asUnreadable(error, 'tar', settings);
  } finally {
    fed.destroy();
  }
}

/** Readers hold headers that name the following file in memory, so a header this large is rejected. */
const LARGEST_HEADER = 1024 * 1024;
const BLOCK = 512;

/**
 * Passes a tar archive on; throws if a header that names a file (IEEE Std 1003.1, pax; GNU's long names) is too large.
 */
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
      const type = String.fromCharCode(elementAt(header, 156));
      if ('xgLK'.includes(type) && size > LARGEST_HEADER) throw new Unreadable('the name of a file in it is too long');
      left = Math.ceil(size / BLOCK) * BLOCK;
    }
    yield chunk;
  }
}

/** A number in octal digits, or in GNU's base 256 when the first bit is set. */
function sizeIn(header: Buffer): number {
  if ((elementAt(header, 124) & 0x80) !== 0) return header.readUIntBE(130, 6);
  return Number.parseInt(header.toString('latin1', 124, 136).replace(/[^0-7].*$/s, ''), 8) || 0;
}
