import { open } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { joinOctets } from '../../core/text/octets';

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

/** A stream whose octets are counted. */
export async function* counted(
  source: AsyncIterable<Uint8Array>,
  count: (octets: number) => void,
): AsyncGenerator<Uint8Array> {
  for await (const chunk of source) {
    count(chunk.length);
    yield chunk;
  }
}

/** Lets a source run into a stream; its error becomes the stream's, which `pipe` alone would leave waiting for ever. */
export function feed(
  source: AsyncIterable<Uint8Array>,
  into: NodeJS.WritableStream & { destroy(error?: Error): unknown },
): Readable {
  const fed = Readable.from(source);
  fed.on('error', (error) => into.destroy(error));
  fed.pipe(into);
  return fed;
}

/** The first octets of a stream, and the stream with them. */
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
