import { createReadStream } from 'node:fs';
import { readFile, stat } from 'node:fs/promises';
import { pipeline, type Readable } from 'node:stream';
import Assembler from 'stream-json/Assembler.js';
import Ignore from 'stream-json/filters/Ignore.js';
import Pick from 'stream-json/filters/Pick.js';
import Parser from 'stream-json/Parser.js';
import StreamArray from 'stream-json/streamers/StreamArray.js';
import { z } from 'zod';
import type { MboxOddity } from '../core/mail/mbox';
import { elementAt } from '../core/text/lookup';

/** A whole audit as one JSON document, with or without its mail. It may be larger than memory, so mail is streamed. */

/** A stored message in an exported audit. */
export const archivedMailShape = z.object({
  folder: z.string().max(10_000),
  flags: z.array(z.string().max(1000)).max(1000),
  /** When it arrived, in milliseconds since 1970; null if unknown. */
  received: z.number().nullable(),
  /** The separator line before it in an mbox; null if there was none. */
  fromLine: z.string().max(10_000).nullable(),
  /** Irregularities of its place in the file. */
  oddities: z
    .array(z.enum(['no-separator', 'no-blank-line-before', 'cut-off', 'nul', 'empty'] satisfies MboxOddity[]))
    .max(5),
  /** Its octets, in base64 (RFC 4648 section 4). */
  raw: z.base64(),
});

export type ArchivedMail = z.infer<typeof archivedMailShape>;

/** Why an exported audit cannot be read, in plain words. */
export class DamagedArchive extends Error {}

/** Size in octets up to which a document is read whole. */
const MOST_WHOLE = 64 * 1024 * 1024;
/** Most characters of a document without its mail. */
export const MOST_BESIDE_MAIL = 64 * 1024 * 1024;
const MAIL = /^mail\b/;
/** Strings are emitted in one piece, since they are needed whole. */
const PACKED = { streamValues: false } as const;

/** A document without its mail, and whether it has any. */
export async function readWithoutMail(file: string): Promise<{ readonly rest: unknown; readonly hasMail: boolean }> {
  if ((await stat(file)).size <= MOST_WHOLE) {
    try {
      const { mail, ...rest }: Record<string, unknown> = JSON.parse(await readFile(file, 'utf8'));
      return { rest, hasMail: Array.isArray(mail) && mail.length > 0 };
    } catch {
      throw new DamagedArchive('it is not JSON, or it is truncated');
    }
  }
  const tokens = piped(file, new Parser(PACKED), new Ignore({ filter: MAIL, ...PACKED }));
  const assembler = new Assembler();
  let length = 0;
  // The stream packages type their output as `any`.
  for await (const token of tokens as AsyncIterable<{ readonly name: string; readonly value?: string }>) {
    length += token.value?.length ?? 1;
    if (length > MOST_BESIDE_MAIL) throw new DamagedArchive('it is too large, even without its mail');
    assembler.consume(token);
  }
  return { rest: assembler.current, hasMail: true };
}

/** The mail of a document, in order; `done` is the number of octets read so far. */
export async function* readMail(file: string): AsyncGenerator<{ readonly mail: ArchivedMail; readonly done: number }> {
  const source = createReadStream(file, { highWaterMark: 1 << 18 });
  const items = streamed(source, new Parser(PACKED), new Pick({ filter: /^mail$/, ...PACKED }), new StreamArray());
  for await (const { key, value } of items as AsyncIterable<{ readonly key: number; readonly value: unknown }>) {
    const found = archivedMailShape.safeParse(value);
    if (!found.success) {
      const [issue] = found.error.issues;
      throw new DamagedArchive(`its message ${key + 1} is damaged at ${issue?.path.join('.') || 'its head'}`);
    }
    yield { mail: found.data, done: source.bytesRead };
  }
}

const piped = (file: string, ...through: readonly NodeJS.ReadWriteStream[]) =>
  streamed(createReadStream(file, { highWaterMark: 1 << 20 }), ...through);

/** Chains streams and yields the output of the last; an error in any of them is an error of the document. */
async function* streamed(source: Readable, ...through: readonly NodeJS.ReadWriteStream[]): AsyncGenerator<unknown> {
  let failed: Error | null = null;
  const last = elementAt(through, through.length - 1);
  pipeline([source, ...through], (error) => {
    failed = error ?? null;
  });
  try {
    for await (const piece of last) yield piece;
  } catch (error) {
    const reason = failed ?? error;
    throw new DamagedArchive(
      `it is not JSON, or it is truncated: ${reason instanceof Error ? reason.message : reason}`,
    );
  } finally {
    source.destroy();
  }
}
