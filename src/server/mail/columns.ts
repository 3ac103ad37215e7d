import { and, asc, eq, like, lt, sql } from 'drizzle-orm';
import { atOnce, type Steps } from '../../core/audit/stepwise';
import { type ColumnName, type ColumnSource, type Dictionary, DictionaryBuilder } from '../../core/flow/columns';
import { BatchBuilder, foldedOctets, type TextBatch } from '../../core/flow/texts';
import { type Envelope, envelopeOf, type MailMessage, readableTexts, readMessage } from '../../core/mail/message';
import { elementAt, ownJson } from '../../core/text/lookup';
import { inflated } from '../../files/packing';
import { Region } from '../cache/region';
import { Shares } from '../chain/shares';
import type { Store } from '../database/open';
import { columnPieces } from '../database/schema';
import {
  type ColumnPiece,
  PIECE_MESSAGES,
  pieceOf,
  readColumnPiece,
  readTextPiece,
  SHARED_COLUMN,
  type SharedPiece,
  TEXT_COLUMN,
} from './column-pieces';
import { maybeRaw } from './raw';

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

/** The messages of a piece, each with its values. */
function byMessage({ terms, messages, places }: ColumnPiece): Pick<ReadColumn, 'messages' | 'values'> {
  const read: { messages: number[]; values: string[][] } = { messages: [], values: [] };
  let last = -1;
  for (let at = 0; at < messages.length; at++) {
    const message = elementAt(messages, at);
    const value = elementAt(terms, elementAt(places, at));
    if (message === last) read.values.at(-1)?.push(value);
    else {
      read.messages.push(message);
      read.values.push([value]);
    }
    last = message;
  }
  return read;
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

function* between(from: number, to: number): Generator<number> {
  for (let number = from; number < to; number++) yield number;
}

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
    /** This thread's share of the texts, and of the messages that are read whole, to be read once; null for all. */
    readonly shares: Shares | null = null,
  ) {}

  /** Messages whose texts are in no piece, because they are large or older than text pieces, are read again. */
  texts(visit: (batch: TextBatch) => void): void {
    const readAnew = (numbers: Iterable<number>) => {
      for (const number of numbers) {
        const builder = new BatchBuilder();
        for (const text of readableTexts(readMessage(this.#raw(number)))) builder.add(number, foldedOctets(text));
        visit(builder.take());
      }
    };
    const firsts = this.#firsts(TEXT_COLUMN);
    const takes = (piece: number) => this.shares?.takesText(piece) ?? true;
    if (takes(0)) readAnew(between(0, firsts[0] ?? this.count));
    // Who takes a piece also takes the messages up to the next one.
    for (const [place, first] of firsts.entries()) {
      if (!takes(place + 1)) continue;
      const data = this.#data(TEXT_COLUMN, first);
      if (!data) throw new Error(`the texts from message ${first} on are not stored`);
      const { batch, messages, long } = readTextPiece(data, first, this.count);
      visit(batch);
      readAnew(long.filter((number) => number < this.count));
      readAnew(between(first + messages, firsts[place + 1] ?? this.count));
    }
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
    for (const piece of this.piecesByValue(column)) {
      yield;
      builder.addPiece(piece);
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
   * A column in pieces by message, each read in some milliseconds; messages with very many fields may come last. It is
   * kept for the next time.
   */
  *pieces(column: ColumnName): Generator<Pick<ReadColumn, 'messages' | 'values'>, void, undefined> {
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
    for (const piece of this.piecesByValue(column)) {
      const read = byMessage(piece);
      for (const [at, message] of read.messages.entries()) {
        if (whole.weight < HELD_COLUMN) keep(whole, message, elementAt(read.values, at));
      }
      yield read;
    }
    if (whole.weight < HELD_COLUMN) recentColumns.set(name, whole);
  }

  /** The same by distinct values, and not kept. */
  *piecesByValue(column: ColumnName): Generator<ColumnPiece, void, undefined> {
    for (const first of this.#firsts(column)) {
      const data = this.#data(column, first);
      if (data) yield readColumnPiece(data, first, this.count);
    }
    const shared = this.#sharedOf(column);
    if (shared.length > 0) yield pieceOf(shared, this.count);
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
      for (const [offset, columns] of data ? ownJson<SharedPiece>(inflated(data).toString()) : []) {
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
    for (const { from, to } of (this.shares ?? new Shares(this.count)).take()) {
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
