import { asBuffer, joinOctets } from '../text/octets';

/** One message of an mbox file. */
export interface MboxEntry {
  /** The separator line without its end, or null for text before the first one. */
  readonly fromLine: string | null;
  /** The message itself, with `From ` unquoted, without the blank line that ends it in the file. */
  readonly raw: Uint8Array;
  /** Offset of the entry in the file. */
  readonly offset: number;
  readonly oddities: readonly MboxOddity[];
}

export type MboxOddity = 'no-separator' | 'no-blank-line-before' | 'cut-off' | 'nul' | 'empty';

export interface MboxSettings {
  /**
   * `reversible`: one `>` is removed from every line `>*From `. `old`: only `>From ` is a quoted line. Both occur, and
   * a file does not say which (RFC 4155 describes the old way).
   */
  readonly quoting: 'reversible' | 'old';
  /** Octets; a larger message makes reading fail with `MessageTooLarge`. */
  readonly largest: number;
}

/** The largest message that mail servers still accept (common practice), of which a few copies fit into memory. */
export const MBOX_DEFAULTS: MboxSettings = { quoting: 'reversible', largest: 150 * 1024 * 1024 };

export class MessageTooLarge extends Error {
  constructor(readonly offset: number) {
    super(`the message at byte ${offset} is too large`);
  }
}

const LF = 10;
const CR = 13;
const GT = 62;
const FROM = [70, 114, 111, 109, 32] as const;
const FROM_LINE = Uint8Array.of(LF, ...FROM);
/** A separator line, and the start of the next line, must fit into this many octets. */
const LOOKAHEAD = 4096;

/**
 * Reads an mbox (RFC 4155) as a stream, with one message in memory. A line is a separator when it reads `From `, a
 * sender and a date. Without the date it must also follow a blank line and precede a header field, since prose has
 * lines that begin with "From" (common practice). Every octet of the file belongs to an entry. Messages that end in the
 * same chunk come together, since handing each on by itself takes longer than reading it.
 */
export async function* readMbox(
  source: AsyncIterable<Uint8Array>,
  settings: MboxSettings = MBOX_DEFAULTS,
): AsyncGenerator<readonly MboxEntry[]> {
  const splitter = new MboxSplitter(settings);
  for await (const chunk of source) yield* together(splitter.push(chunk));
  yield* together(splitter.end());
}

/** All entries at once; those before an error come before it. */
function* together(entries: Iterable<MboxEntry>): Generator<readonly MboxEntry[]> {
  const some: MboxEntry[] = [];
  try {
    for (const entry of entries) some.push(entry);
  } finally {
    if (some.length > 0) yield some;
  }
}

/** The same for octets in memory. */
export function* splitMbox(file: Uint8Array, settings: MboxSettings = MBOX_DEFAULTS): Generator<MboxEntry> {
  const splitter = new MboxSplitter(settings);
  yield* splitter.push(file);
  yield* splitter.end();
}

class MboxSplitter {
  /** Octets not assigned yet: the end of the current message and perhaps the start of a separator. */
  #held: Uint8Array = new Uint8Array(0);
  #heldOffset = 0;
  #parts: Uint8Array[] = [];
  #length = 0;
  #start = 0;
  #fromLine: string | null = null;
  #oddities: MboxOddity[] = [];
  /** The last two octets before `#held`, to know whether a blank line precedes it. */
  #before: readonly number[] = [];

  constructor(readonly settings: MboxSettings) {}

  *push(chunk: Uint8Array): Generator<MboxEntry> {
    this.#held = joinOctets([this.#held, chunk]);
    yield* this.#scan(false);
  }

  *end(): Generator<MboxEntry> {
    yield* this.#scan(true);
    this.#take(this.#held.length);
    yield* this.#finish(true);
  }

  *#scan(final: boolean): Generator<MboxEntry> {
    let from = 0;
    for (;;) {
      const place = this.#nextCandidate(from);
      if (place < 0) break;
      if (!final && this.#held.length - place < LOOKAHEAD) {
        this.#take(place);
        return;
      }
      const line = this.#separatorAt(place);
      if (!line) {
        from = place + 1;
        continue;
      }
      this.#take(place);
      yield* this.#finish(false);
      this.#fromLine = line.text;
      this.#start = this.#heldOffset;
      if (!line.afterBlank) this.#oddities.push('no-blank-line-before');
      this.#drop(line.length);
      from = 0;
    }
    // Whatever may be the start of a separator is kept back.
    if (!final) this.#take(Math.max(0, this.#held.length - FROM.length));
  }

  /** The next line start with `From `. */
  #nextCandidate(from: number): number {
    const held = this.#held;
    const isFirst = this.#heldOffset === 0 || this.#octet(-1) === LF;
    if (from === 0 && isFirst && FROM.every((octet, index) => held[index] === octet)) return 0;
    const line = asBuffer(held).indexOf(FROM_LINE, Math.max(0, from - 1));
    return line < 0 ? -1 : line + 1;
  }

  #separatorAt(place: number): { text: string; length: number; afterBlank: boolean } | null {
    const held = this.#held;
    const end = held.indexOf(LF, place);
    const stop = end < 0 ? held.length : end;
    if (stop - place > LOOKAHEAD / 2) return null;
    const text = latin1(held.subarray(place, stop)).replace(/\r$/, '');
    const length = (end < 0 ? stop : end + 1) - place;
    const first = this.#heldOffset + place === 0;
    const afterBlank = first || this.#blankBefore(place);
    const dated = /^From .*\b\d{1,2}:\d{2}(:\d{2})?\b.*\b\d{4}\b|^From .*\b\d{4}\b.*\b\d{1,2}:\d{2}(:\d{2})?\b/.test(
      text,
    );
    if (first || dated) return { text, length, afterBlank };
    const next = latin1(held.subarray(place + length, place + length + 200));
    return afterBlank && /^[!-9;-~]+:|^>From /.test(next) ? { text, length, afterBlank } : null;
  }

  #blankBefore(place: number): boolean {
    if (this.#octet(place - 1) !== LF) return false;
    const previous = this.#octet(place - 2);
    return previous === LF || (previous === CR && this.#octet(place - 3) === LF) || this.#length + place <= 1;
  }

  #octet(at: number): number | undefined {
    return at >= 0 ? this.#held[at] : this.#before[this.#before.length + at];
  }

  /** Moves the first `count` held octets to the current message. */
  #take(count: number): void {
    if (count <= 0) return;
    const part = this.#held.subarray(0, count);
    this.#length += count;
    if (this.#length > this.settings.largest) throw new MessageTooLarge(this.#start);
    this.#parts.push(part);
    this.#drop(count);
  }

  #drop(count: number): void {
    this.#before = [...this.#before, ...this.#held.subarray(Math.max(0, count - 3), count)].slice(-3);
    this.#held = this.#held.subarray(count);
    this.#heldOffset += count;
  }

  *#finish(final: boolean): Generator<MboxEntry> {
    const whole = joinOctets(this.#parts);
    const oddities = this.#oddities;
    const fromLine = this.#fromLine;
    this.#parts = [];
    this.#length = 0;
    this.#oddities = [];
    // Blank lines before the first separator are not a message.
    if (fromLine === null && whole.every((octet) => octet === LF || octet === CR)) return;
    const raw = unquote(withoutLastBlankLine(whole), this.settings.quoting);
    if (fromLine === null) oddities.push('no-separator');
    if (raw.length === 0) oddities.push('empty');
    if (final && whole.length > 0 && whole[whole.length - 1] !== LF) oddities.push('cut-off');
    if (raw.includes(0)) oddities.push('nul');
    yield { fromLine, raw, offset: this.#start, oddities };
  }
}

function withoutLastBlankLine(message: Uint8Array): Uint8Array {
  const { length } = message;
  if (message[length - 1] !== LF) return message;
  if (message[length - 2] === LF || length === 1) return message.subarray(0, length - 1);
  const crlf = message[length - 2] === CR && (message[length - 3] === LF || length === 2);
  return crlf ? message.subarray(0, length - 2) : message;
}

function unquote(message: Uint8Array, quoting: MboxSettings['quoting']): Uint8Array {
  const parts: Uint8Array[] = [];
  let copied = 0;
  for (let at = message.indexOf(GT); at >= 0; at = message.indexOf(GT, at + 1)) {
    if (at > 0 && message[at - 1] !== LF) continue;
    let end = at + 1;
    if (quoting === 'reversible') while (message[end] === GT) end++;
    if (FROM.every((octet, index) => message[end + index] === octet)) {
      parts.push(message.subarray(copied, at));
      copied = at + 1;
    }
    at = end - 1;
  }
  return parts.length === 0 ? message : joinOctets([...parts, message.subarray(copied)]);
}

/** Writes a message as an mbox entry: separator, quoted text, and a blank line. The inverse of reading. */
export function writeMboxEntry(entry: { fromLine: string | null; raw: Uint8Array }): Uint8Array {
  const head = new TextEncoder().encode(`${entry.fromLine ?? 'From MAILER-DAEMON Thu Jan  1 00:00:00 1970'}\n`);
  const parts: Uint8Array[] = [head];
  let copied = 0;
  for (let at = 0; at >= 0 && at < entry.raw.length; ) {
    let end = at;
    while (entry.raw[end] === GT) end++;
    if (FROM.every((octet, index) => entry.raw[end + index] === octet)) {
      parts.push(entry.raw.subarray(copied, at), Uint8Array.of(GT));
      copied = at;
    }
    const next = entry.raw.indexOf(LF, at);
    at = next < 0 ? -1 : next + 1;
  }
  parts.push(entry.raw.subarray(copied));
  const ended = entry.raw.length === 0 || entry.raw[entry.raw.length - 1] === LF;
  parts.push(Uint8Array.from(ended ? [LF] : [LF, LF]));
  return joinOctets(parts);
}

function latin1(bytes: Uint8Array): string {
  return asBuffer(bytes).toString('latin1');
}
