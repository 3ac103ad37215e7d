import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { and, asc, eq, like, lt, sql } from 'drizzle-orm';
import { atOnce, type Steps } from '../../core/audit/stepwise';
import { type ColumnName, type ColumnSource, type Dictionary, DictionaryBuilder } from '../../core/flow/columns';
import { BatchBuilder, foldedOctets, type TextBatch } from '../../core/flow/texts';
import { type Envelope, envelopeOf, type MailMessage, readableTexts, readMessage } from '../../core/mail/message';
import { foldAscii } from '../../core/text/fold';
import { elementAt, ownJson } from '../../core/text/lookup';
import { Region } from '../cache/region';
import { Shares } from '../chain/shares';
import type { Store } from '../database/open';
import { columnPieces } from '../database/schema';
import { maybeRaw } from './raw';

/** Messages in one piece of a column. */
export const PIECE_MESSAGES = 512;

type Piece = [offset: number, values: string[]][];

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
const SHARED_COLUMN = 'shared';
/** The other columns exist for every message. */
const OF_FIELDS = /^(header|address):/;
type SharedPiece = [offset: number, columns: [column: string, values: string[]][]][];

/**
 * Collects the columns of consecutive messages. A message can have as many different field names as its size allows,
 * and a column for each would be millions of rows.
 */
export class ColumnPieces {
  readonly #columns = new Map<ColumnName, Piece>();
  readonly #shared: SharedPiece = [];

  constructor(readonly first: number) {}

  add(number: number, columns: ReadonlyMap<ColumnName, string[]>): void {
    const offset = number - this.first;
    const shared: [string, string[]][] = [];
    for (const [column, values] of columns) {
      const piece = this.#columns.get(column);
      if (piece) piece.push([offset, values]);
      else if (this.#columns.size < MOST_COLUMNS || !OF_FIELDS.test(column))
        this.#columns.set(column, [[offset, values]]);
      else shared.push([column, values]);
    }
    if (shared.length > 0) this.#shared.push([offset, shared]);
  }

  take(): ColumnRow[] {
    const pieces: [column: string, piece: Piece | SharedPiece][] = [...this.#columns];
    if (this.#shared.length > 0) pieces.push([SHARED_COLUMN, this.#shared]);
    return pieces.map(([column, piece]) => {
      return { column, first: this.first, data: deflateRawSync(JSON.stringify(piece), { level: 1 }) };
    });
  }
}

/** Approximate octets of text at which a piece of the text column is closed. */
const TEXT_PIECE = 1024 * 1024;
/** Texts of larger messages are not stored twice: they are read from the message itself. */
const TEXT_LIMIT = 4 * 1024 * 1024;
const TEXT_COLUMN = 'text';

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
    const data = deflateRawSync(Buffer.concat([head, ...this.#texts]), { level: 1 });
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
function readTextPiece(data: Buffer, first: number, count: number): TextPiece {
  const whole = inflateRawSync(data);
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

/** Octets of a column by its distinct values, so that a million subjects fit; an edited test need not read them again. */
const LARGEST_DICTIONARY = 160 * 1024 * 1024;
const recentDictionaries = new Region<{ readonly dictionary: Dictionary | null; readonly weight: number }>({
  name: 'columns by their values',
  most: 256 * 1024 * 1024,
  weigh: ({ weight }) => weight,
});

/** A column in memory, so that an edited test need not read it again. */
interface ReadColumn {
  readonly messages: number[];
  readonly values: (readonly string[])[];
  /** Approximate octets of memory. */
  weight: number;
}

/** A larger column is not cached; all cached columns together have at most this many octets. */
const HELD_COLUMN = 64 * 1024 * 1024;
const HELD_COLUMNS = 256 * 1024 * 1024;
const recentColumns = new Region<ReadColumn>({ name: 'columns', most: HELD_COLUMNS, weigh: ({ weight }) => weight });

/** Overhead of an array, a string and their slots besides the characters. */
const OVERHEAD = 64;

function keep(read: ReadColumn, message: number, values: readonly string[]): void {
  read.messages.push(message);
  read.values.push(values);
  read.weight += values.reduce((sum, { length }) => sum + length, OVERHEAD);
}

/** Prepared once, since a column has thousands of pieces. */
const preparedPiece = (store: Store) =>
  store
    .select({ data: columnPieces.data })
    .from(columnPieces)
    .where(
      and(
        eq(columnPieces.auditId, sql.placeholder('auditId')),
        eq(columnPieces.column, sql.placeholder('column')),
        eq(columnPieces.first, sql.placeholder('first')),
      ),
    )
    .prepare();

/** Reads columns piece by piece, so that memory does not grow with the mailbox. */
export class StoredColumns implements ColumnSource {
  #shared: Map<string, [number, string[]][]> | null = null;
  #ofPiece: ReturnType<typeof preparedPiece> | null = null;

  constructor(
    readonly store: Store,
    readonly auditId: string,
    readonly count: number,
    /** The envelope recipient of messages that name none. */
    readonly recipient: string | null = null,
    /** This thread's share of the messages that are read whole. */
    readonly shares = new Shares(count),
  ) {}

  /** Messages whose texts are in no piece, because they are large or older than text pieces, are read again. */
  texts(visit: (batch: TextBatch) => void): void {
    let next = 0;
    const readAnew = (number: number) => {
      const builder = new BatchBuilder();
      for (const text of readableTexts(readMessage(this.#raw(number)))) builder.add(number, foldedOctets(text));
      visit(builder.take());
    };
    const upTo = (number: number) => {
      for (; next < number; next++) readAnew(next);
    };
    for (const first of this.#firsts(TEXT_COLUMN)) {
      upTo(first);
      const data = this.#data(TEXT_COLUMN, first);
      if (!data) continue;
      const { batch, messages, long } = readTextPiece(data, first, this.count);
      visit(batch);
      for (const number of long) if (number < this.count) readAnew(number);
      next = first + messages;
    }
    upTo(this.count);
  }

  /** Null for columns that are too large to be held, or that a recipient is added to. */
  maybeDictionary(column: ColumnName): Dictionary | null {
    return atOnce(this.dictionaryInSteps(column));
  }

  /** The same in steps of some milliseconds. */
  *dictionaryInSteps(column: ColumnName): Steps<Dictionary | null> {
    if (column === 'envelope:to') return null;
    const name = `${this.auditId} ${this.count} ${column}`;
    const known = recentDictionaries.get(name);
    if (known) return known.dictionary;
    const builder = new DictionaryBuilder();
    for (const { messages, values } of this.pieces(column, false)) {
      yield;
      for (let at = 0; at < messages.length; at++) {
        for (const value of elementAt(values, at)) builder.add(elementAt(messages, at), value);
      }
      if (builder.weight <= LARGEST_DICTIONARY) continue;
      recentDictionaries.set(name, { dictionary: null, weight: 0 });
      return null;
    }
    const dictionary = builder.take();
    recentDictionaries.set(name, { dictionary, weight: builder.weight });
    return dictionary;
  }

  /** Names of all fields that have a column of their own. */
  fieldNames(): Set<string> {
    const rows = this.store
      .selectDistinct({ column: columnPieces.column })
      .from(columnPieces)
      .where(and(eq(columnPieces.auditId, this.auditId), like(columnPieces.column, 'header:%')))
      .all();
    return new Set(rows.map(({ column }) => column.slice('header:'.length)));
  }

  scan(column: ColumnName, visit: (message: number, values: readonly string[]) => void): void {
    const missing = column === 'envelope:to' && this.recipient !== null ? [this.recipient] : null;
    let next = 0;
    const fillUpTo = (number: number) => {
      for (; missing && next < number; next++) visit(next, missing);
      next = number + 1;
    };
    for (const piece of this.pieces(column)) {
      for (let at = 0; at < piece.messages.length; at++) {
        const number = elementAt(piece.messages, at);
        fillUpTo(number);
        visit(number, elementAt(piece.values, at));
      }
    }
    fillUpTo(this.count);
  }

  /**
   * A column in pieces, each read in some milliseconds; messages with very many fields may come last. `isKept`: it is kept for the
   * next time.
   */
  *pieces(column: ColumnName, isKept = true): Generator<Pick<ReadColumn, 'messages' | 'values'>, void, undefined> {
    const name = `${this.auditId} ${this.count} ${column}`;
    const known = recentColumns.get(name);
    if (known) {
      for (let from = 0; from < known.messages.length; from += PIECE_MESSAGES) {
        const to = from + PIECE_MESSAGES;
        yield { messages: known.messages.slice(from, to), values: known.values.slice(from, to) };
      }
      return;
    }
    const whole: ReadColumn = { messages: [], values: [], weight: 0 };
    for (const first of this.#firsts(column)) {
      const data = this.#data(column, first);
      const piece = data ? ownJson<Piece>(inflateRawSync(data).toString()) : [];
      const read: ReadColumn = { messages: [], values: [], weight: 0 };
      for (const [offset, values] of piece) {
        if (first + offset >= this.count) continue;
        read.messages.push(first + offset);
        read.values.push(values);
        if (isKept && whole.weight < HELD_COLUMN) keep(whole, first + offset, values);
      }
      yield read;
    }
    const shared = this.#sharedOf(column);
    for (const [number, values] of shared) if (isKept && whole.weight < HELD_COLUMN) keep(whole, number, values);
    if (shared.length > 0)
      yield { messages: shared.map(([number]) => number), values: shared.map(([, values]) => values) };
    if (isKept && whole.weight < HELD_COLUMN) recentColumns.set(name, whole);
  }

  /** Values of columns without a piece of their own; read once for all columns. */
  #sharedOf(column: ColumnName): readonly [number, string[]][] {
    this.#shared ??= this.#readShared();
    return this.#shared.get(column) ?? [];
  }

  #readShared(): Map<string, [number, string[]][]> {
    const found = new Map<string, [number, string[]][]>();
    for (const first of this.#firsts(SHARED_COLUMN)) {
      const data = this.#data(SHARED_COLUMN, first);
      for (const [offset, columns] of data ? ownJson<SharedPiece>(inflateRawSync(data).toString()) : []) {
        if (first + offset >= this.count) continue;
        for (const [column, values] of columns) {
          const rows = found.get(column);
          if (rows) rows.push([first + offset, values]);
          else found.set(column, [[first + offset, values]]);
        }
      }
    }
    return found;
  }

  /** The first messages of the pieces of a column. */
  #firsts(column: string): number[] {
    const firsts = this.store
      .select({ first: columnPieces.first })
      .from(columnPieces)
      .where(
        and(
          eq(columnPieces.auditId, this.auditId),
          eq(columnPieces.column, column),
          lt(columnPieces.first, this.count),
        ),
      )
      .orderBy(asc(columnPieces.first))
      .all();
    return firsts.map(({ first }) => first);
  }

  messages(visit: (number: number, message: MailMessage, envelope: Envelope) => void): void {
    for (const { from, to } of this.shares.take()) {
      for (let number = from; number < to; number++) {
        const message = readMessage(this.#raw(number));
        visit(number, message, envelopeOf(message, this.recipient));
      }
    }
  }

  #raw(number: number): Buffer {
    const raw = maybeRaw(this.store, this.auditId, number);
    if (!raw) throw new Error(`message ${number} is not stored`);
    return raw;
  }

  #data(column: string, first: number): Buffer | undefined {
    this.#ofPiece ??= preparedPiece(this.store);
    return this.#ofPiece.get({ auditId: this.auditId, column, first })?.data;
  }
}
