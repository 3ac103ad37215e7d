import { open } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { MessageTooLarge } from '../../core/mail/mbox';
import { joinOctets } from '../../core/text/octets';
import { codeOf } from '../undeclared';
import { type MailFileSettings, Unreadable } from './found';

/** The first octets of a file. */
export async function headOf(file: string): Promise<Uint8Array> {
  const handle = await open(file);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(512), 0, 512, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

/** A stream that counts its octets. */
export async function* counted(
  source: AsyncIterable<Uint8Array>,
  count: (octets: number) => void,
): AsyncGenerator<Uint8Array> {
  for await (const chunk of source) {
    count(chunk.length);
    yield chunk;
  }
}

/** Pipes a source into a stream and passes errors on; `pipe` alone would leave the reader waiting for ever. */
export function feed(
  source: AsyncIterable<Uint8Array>,
  into: NodeJS.WritableStream & { destroy(error?: Error): unknown },
): Readable {
  const fed = Readable.from(source);
  fed.on('error', (error) => into.destroy(error));
  fed.pipe(into);
  return fed;
}

/** Returns the first octets of a stream, together with the whole stream. */
export async function peeked(source: AsyncIterable<Uint8Array>): Promise<[Uint8Array, AsyncIterable<Uint8Array>]> {
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

/** An archive that unpacks to this many times its size, and to more than this size, is treated as an archive bomb. */
export const MOST_RATIO = 200;
export const RATIO_FROM = 256 * 1024 * 1024;
export const MOST_FILES = 2_000_000;

export const TRAP = 'it unpacks to more than 200 times its size';
export const WRONG_CHECKSUM = 'damaged: wrong checksum';

/** Counts what an archive unpacks to; throws for an archive bomb, even if its entries share their octets. */
export function unpackedMeter(packed: number): (octets: number) => void {
  let unpacked = 0;
  return (octets) => {
    unpacked += octets;
    if (unpacked > RATIO_FROM && unpacked > packed * MOST_RATIO) throw new Unreadable(TRAP);
  };
}

/** Words the fault of an archive; other errors are returned unchanged. */
export function asUnreadable(error: unknown, kind: string, settings: Pick<MailFileSettings, 'isEnd'>): unknown {
  const told = error instanceof Unreadable || error instanceof MessageTooLarge;
  if (told || settings.isEnd(error) || !(error instanceof Error)) return error;
  const code = codeOf(error);
  const reason = DAMAGES[code ?? ''] ?? error.message.replace(/\.$/, '');
  return new Unreadable(`the ${kind} archive is damaged: ${reason}`);
}

export const WRONG_SIZE = 'a file in it has another size than declared';

/** Codes of zlib. */
const DAMAGES: Readonly<Record<string, string>> = {
  Z_BUF_ERROR: 'it is truncated',
  Z_DATA_ERROR: 'wrong checksum, or damaged data',
  ERR_BUFFER_TOO_LARGE: WRONG_SIZE,
};
