import { type ColumnName, DictionaryBuilder, eachColumn } from '../../core/flow/columns';
import type { TextBatch } from '../../core/flow/texts';
import type { Envelope, MailMessage } from '../../core/mail/message';
import { foldAscii } from '../../core/text/fold';
import { elementAt, ownJson } from '../../core/text/lookup';
import { deflated, inflated } from '../../files/packing';

/** Messages in one piece of a column. */
export const PIECE_MESSAGES = 512;

/** A stored piece of a column. */
export interface ColumnRow {
  readonly column: string;
  readonly first: number;
  readonly data: Uint8Array;
}

/** Columns stored separately for a piece of consecutive messages; all others share one. */
const MOST_COLUMNS = 4000;
/**
 * The shared column: for each message the values of columns without their own piece, `[offset, [column, values][]][]`.
 */
export const SHARED_COLUMN = 'shared';
/** The other columns exist for every message. */
const OF_FIELDS = /^(header|address):/;
export type SharedPiece = [offset: number, columns: [column: string, values: string[]][]][];

/**
 * Collects the columns of consecutive messages. A message can have as many different field names as its size allows,
 * and a column for each would be millions of rows.
 */
export class ColumnPieces {
  readonly #columns = new Map<ColumnName, PieceBuilder>();
  readonly #shared: SharedPiece = [];

  constructor(readonly first: number) {}

  add(number: number, message: MailMessage, envelope: Envelope): void {
    const offset = number - this.first;
    const shared = new Map<string, string[]>();
    eachColumn(message, envelope, (column, value) => {
      const piece = this.#columns.get(column) ?? this.#begin(column);
      if (piece) piece.add(offset, value);
      else shared.set(column, [...(shared.get(column) ?? []), value]);
    });
    if (shared.size > 0) this.#shared.push([offset, [...shared]]);
  }

  #begin(column: ColumnName): PieceBuilder | null {
    if (this.#columns.size >= MOST_COLUMNS && OF_FIELDS.test(column)) return null;
    const piece = new PieceBuilder();
    this.#columns.set(column, piece);
    return piece;
  }

  take(): ColumnRow[] {
    const pieces: [column: string, written: unknown][] = Array.from(this.#columns, ([column, piece]) => [
      column,
      piece.take(),
    ]);
    if (this.#shared.length > 0) pieces.push([SHARED_COLUMN, this.#shared]);
    return pieces.map(([column, written]) => {
      return { column, first: this.first, data: deflated(JSON.stringify(written), { level: 1 }) };
    });
  }
}

/**
 * A piece as it is stored: the distinct values; for each value of a message its offset in the piece; and which of the
 * distinct ones it is. Null stands for 0, 1, 2 and so on.
 */
type WrittenPiece = readonly [
  values: readonly string[],
  offsets: readonly number[] | null,
  places: readonly number[] | null,
];

class PieceBuilder {
  readonly #places = new Map<string, number>();
  readonly #written = { offsets: [] as number[], places: [] as number[] };

  add(offset: number, value: string): void {
    let place = this.#places.get(value);
    if (place === undefined) {
      place = this.#places.size;
      this.#places.set(value, place);
    }
    this.#written.offsets.push(offset);
    this.#written.places.push(place);
  }

  take(): WrittenPiece {
    const { offsets, places } = this.#written;
    return [[...this.#places.keys()], counted(offsets), counted(places)];
  }
}

const counted = (numbers: readonly number[]): readonly number[] | null =>
  numbers.every((number, at) => number === at) ? null : numbers;

/** A piece of a column by its distinct values. */
export interface ColumnPiece {
  readonly terms: readonly string[];
  /** The messages that have a value, ascending; the same message for each of its values. */
  readonly messages: readonly number[];
  /** For each of them, the index of the value in `terms`. */
  readonly places: readonly number[];
}

/** A piece as databases of before had it. */
type EarlierPiece = readonly (readonly [offset: number, values: readonly string[]])[];

/** Reads a stored piece, from message `first` on; messages from `count` on are left out. */
export function readColumnPiece(data: Buffer, first: number, count: number): ColumnPiece {
  const written = ownJson<WrittenPiece | EarlierPiece>(inflated(data).toString());
  if (isEarlier(written))
    return pieceOf(
      written.map(([offset, values]) => [first + offset, values]),
      count,
    );
  const [terms, offsets, places] = written;
  const length = (offsets ?? places ?? terms).length;
  const messages: number[] = [];
  for (let at = 0; at < length; at++) {
    const number = first + (offsets ? elementAt(offsets, at) : at);
    if (number < count) messages.push(number);
  }
  return { terms, messages, places: places ?? [...messages.keys()] };
}

const isEarlier = (written: WrittenPiece | EarlierPiece): written is EarlierPiece =>
  typeof written[0]?.[0] === 'number';

/** Values by message as a piece. */
export function pieceOf(
  rows: Iterable<readonly [number: number, values: readonly string[]]>,
  count: number,
): ColumnPiece {
  const builder = new DictionaryBuilder();
  for (const [number, values] of rows) if (number < count) for (const value of values) builder.add(number, value);
  const { terms, messages, places } = builder.take();
  return { terms, messages: [...messages], places: [...places] };
}

/** Approximate octets of text at which a piece of the text column is closed. */
const TEXT_PIECE = 1024 * 1024;
/** Texts of larger messages are not stored twice: they are read from the message itself. */
const TEXT_LIMIT = 4 * 1024 * 1024;
export const TEXT_COLUMN = 'text';

/**
 * Collects the folded texts of consecutive messages into pieces: the number of messages; for each message its number of
 * texts, or -1 if it is too large; for each text its length; then the texts. All numbers have four octets,
 * little-endian.
 */
export class TextPieces {
  readonly #rows: ColumnRow[] = [];
  #counts: number[] = [];
  #lengths: number[] = [];
  #texts: Buffer[] = [];
  #first = 0;
  #octets = 0;

  add(number: number, { size }: MailMessage, read: readonly string[]): void {
    if (this.#counts.length === 0) this.#first = number;
    const texts = size > TEXT_LIMIT ? null : read.map(foldAscii);
    this.#counts.push(texts?.length ?? -1);
    for (const text of texts ?? []) {
      const octets = Buffer.from(text);
      this.#texts.push(octets);
      this.#lengths.push(octets.length);
      this.#octets += octets.length;
    }
    if (this.#octets >= TEXT_PIECE || this.#counts.length >= PIECE_MESSAGES) this.#close();
  }

  take(): readonly ColumnRow[] {
    this.#close();
    return this.#rows;
  }

  #close(): void {
    if (this.#counts.length === 0) return;
    const numbers = [this.#counts.length, ...this.#counts, ...this.#lengths];
    const head = Buffer.alloc(numbers.length * 4);
    for (const [at, number] of numbers.entries()) head.writeInt32LE(number, at * 4);
    const data = deflated(Buffer.concat([head, ...this.#texts]), { level: 1 });
    this.#rows.push({ column: TEXT_COLUMN, first: this.#first, data });
    this.#counts = [];
    this.#lengths = [];
    this.#texts = [];
    this.#octets = 0;
  }
}

interface TextPiece {
  readonly batch: TextBatch;
  /** How many messages it stands for. */
  readonly messages: number;
  /** Messages whose texts are in no piece. */
  readonly long: readonly number[];
}

/** The texts of one piece, from message `first` on; messages from `count` on are left out. */
export function readTextPiece(data: Buffer, first: number, count: number): TextPiece {
  const whole = inflated(data);
  const at = (index: number) => whole.readInt32LE(index * 4);
  const messages = at(0);
  const long: number[] = [];
  const owners: number[] = [];
  const edges = [0];
  let next = 1 + messages;
  for (let offset = 0; offset < messages; offset++) {
    const texts = at(1 + offset);
    if (texts < 0) long.push(first + offset);
    for (let text = 0; text < texts; text++) {
      edges.push(elementAt(edges, edges.length - 1) + at(next++));
      if (first + offset < count) owners.push(first + offset);
    }
  }
  return { batch: { octets: whole.toString('latin1', next * 4), edges, messages: owners }, messages, long };
}
