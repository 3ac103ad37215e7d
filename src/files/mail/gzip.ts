import { createGunzip } from 'node:zlib';
import { octetsOf } from '../undeclared';
import type { Reading, ReadMail } from './found';
import { fileChunks, mailInStream } from './plain';
import { asUnreadable, feed, peeked, unpackedMeter } from './streams';
import { isTar, mailInTar } from './tar';

/** A compressed file of mail, or a compressed tar archive (RFC 1952). */
export const readGzip: ReadMail = async function* (file, total, settings) {
  const [head, stream] = await peeked(unpacked(fileChunks(file, total, settings), total, settings));
  if (isTar(head)) yield* mailInTar(stream, settings);
  else yield* mailInStream('', stream, settings);
};

async function* unpacked(
  source: AsyncIterable<Uint8Array>,
  packed: number,
  settings: Reading,
): AsyncGenerator<Uint8Array> {
  const count = unpackedMeter(packed);
  const gunzip = createGunzip();
  const fed = feed(source, gunzip);
  try {
    for await (const chunk of octetsOf(gunzip)) {
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
