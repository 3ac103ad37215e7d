import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { MBOX_DEFAULTS, type MboxEntry, MessageTooLarge, readMbox } from '../../core/mail/mbox';
import { placeOf } from '../../core/mail/places';
import { asBuffer, joinOctets } from '../../core/text/octets';
import { type FoundMail, type FoundMails, type Reading, type ReadMail, UNPLACED } from './found';
import { counted, peeked } from './streams';

/** A plain file of mail: an mbox, or one message. */
export const readPlain: ReadMail = (file, total, settings) => {
  const chunks = fileChunks(file, total, settings);
  return /\.eml$/i.test(settings.name) ? mailByItself(chunks, settings) : mboxOrMessage(file, chunks, settings);
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
async function* mboxOrMessage(file: string, chunks: AsyncIterable<Uint8Array>, settings: Reading): FoundMails {
  const at = { ...UNPLACED, folder: settings.folder };
  let held: MboxEntry | null = null;
  for await (const entries of readMbox(chunks, MBOX_DEFAULTS)) {
    const some: readonly MboxEntry[] = held ? [held, ...entries] : entries;
    held = null;
    const [first, ...others] = some;
    if (first && others.length === 0 && isMaybeWhole(first)) held = first;
    else yield some.map((entry) => placed(entry, at));
  }
  if (!held) return;
  const oddities = held.oddities.filter((oddity) => oddity === 'nul');
  yield [{ ...held, oddities, raw: await readFile(file), ...at, single: true }];
}

/** Whether an entry may be all of a file that is one message. */
const isMaybeWhole = ({ fromLine, raw }: MboxEntry): boolean =>
  fromLine === null && /^[!-9;-~]+[ \t]*:/.test(asBuffer(raw.subarray(0, 200)).toString('latin1'));

type Place = Omit<FoundMail, keyof MboxEntry>;

/** Written out, since it is done for each message, and copying two objects into one takes as long as reading some. */
const placed = (
  { fromLine, raw, offset, oddities }: MboxEntry,
  { folder, flags, received, single, path }: Place,
): FoundMail => ({ fromLine, raw, offset, oddities, folder, flags, received, single, path });

/** A message in a file of its own. */
async function* mailByItself(source: AsyncIterable<Uint8Array>, settings: Reading): FoundMails {
  const name = settings.name.replace(/^.*[/\\]/, '');
  for await (const some of mailInStream(name, source, settings)) yield some.map((found) => ({ ...found, path: null }));
}

/** The messages of one file of an archive or a folder. */
export async function* mailInStream(path: string, source: AsyncIterable<Uint8Array>, settings: Reading): FoundMails {
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
    for await (const some of readMbox(stream, MBOX_DEFAULTS)) yield some.map((entry) => placed(entry, at));
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
  yield [{ fromLine: null, raw, offset: 0, oddities: raw.includes(0) ? ['nul'] : [], ...at }];
}
