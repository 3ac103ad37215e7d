import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { MBOX_DEFAULTS, type MboxEntry, MessageTooLarge, readMbox } from '../../core/mail/mbox';
import { placeOf } from '../../core/mail/places';
import { joinOctets } from '../../core/text/octets';
import { type FoundMail, type Reading, type ReadMail, UNPLACED } from './found';
import { counted, peeked } from './streams';

/** A plain file of mail: an mbox, or one message. */
export const readPlain: ReadMail = async function* (file, total, settings) {
  const chunks = fileChunks(file, total, settings);
  if (/\.eml$/i.test(settings.name)) yield* mailByItself(chunks, settings);
  else yield* mboxOrMessage(file, chunks, settings);
};

/** The octets of a file, reported as they are read. */
export function fileChunks(
  file: string,
  total: number,
  { progress }: Pick<Reading, 'progress'>,
  highWaterMark = 1 << 20,
): AsyncGenerator<Uint8Array> {
  let done = 0;
  return counted(createReadStream(file, { highWaterMark }), (octets) => {
    done += octets;
    progress(done, total);
  });
}

/** An mbox; or, if the file starts with a header field and contains no separator, one message byte for byte. */
async function* mboxOrMessage(
  file: string,
  chunks: AsyncIterable<Uint8Array>,
  settings: Reading,
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
async function* mailByItself(source: AsyncIterable<Uint8Array>, settings: Reading): AsyncGenerator<FoundMail> {
  const name = settings.name.replace(/^.*[/\\]/, '');
  for await (const found of mailInStream(name, source, settings)) yield { ...found, path: null };
}

/** The messages of one file of an archive or a folder. */
export async function* mailInStream(
  path: string,
  source: AsyncIterable<Uint8Array>,
  settings: Reading,
): AsyncGenerator<FoundMail> {
  const place = placeOf(path, settings.folder);
  const at = { ...place, path: path === '' ? null : path };
  const [head, stream] = await peeked(source);
  const text = Buffer.from(head).toString('latin1');
  const reason = head.length === 0 ? 'empty' : settings.isPlain(head) ? null : 'an archive within an archive';
  const mbox = /^[\r\n]*From /.test(text);
  if (reason || !(mbox || place.single || /^[!-9;-~]+:/.test(text))) {
    settings.passOver({ path, reason: reason ?? 'not mail' });
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
