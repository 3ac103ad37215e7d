import { addressesOf, type Envelope, type MailMessage, readableTexts } from '../mail/message';
import { elementAt } from '../text/lookup';
import { detached } from '../text/octets';
import { BatchBuilder, foldedOctets, type TextBatch } from './texts';

/**
 * A column has one property of every message: all its Subject values, all addresses of its From fields, its size.
 * `header:NAME` and `address:NAME` have NAME in lower case.
 */
export type ColumnName = `header:${string}` | `address:${string}` | 'size' | 'envelope:from' | 'envelope:to';

/** A column by its distinct values, since most values are in many messages. */
export interface Dictionary {
  readonly terms: readonly string[];
  /** The messages that have a value; the same message for each of its values. */
  readonly messages: Uint32Array;
  /** For each of them, the index of the value in `terms`. */
  readonly places: Uint32Array;
}

const UNKNOWN = -1;
/** Octets of a value in memory besides its characters. */
const OVERHEAD = 48;

/** Collects a column, message by message. */
export class DictionaryBuilder {
  readonly #terms = new Map<string, number>();
  #messages = new Uint32Array(1024);
  #places = new Uint32Array(1024);
  #count = 0;
  #characters = 0;

  add(message: number, value: string): void {
    this.#put(message, this.#placeOf(value));
  }

  #placeOf(value: string): number {
    const known = this.#terms.get(value);
    if (known !== undefined) return known;
    const place = this.#terms.size;
    this.#terms.set(value, place);
    this.#characters += value.length;
    return place;
  }

  #put(message: number, place: number): void {
    if (this.#count === this.#messages.length) {
      this.#messages = grown(this.#messages);
      this.#places = grown(this.#places);
    }
    this.#messages[this.#count] = message;
    this.#places[this.#count++] = place;
  }

  /** Adds values that are given by their distinct ones, which are looked up once each; of the messages that count. */
  addPiece(
    { terms, messages, places }: { [part in keyof Dictionary]: ArrayLike<Dictionary[part][number]> },
    counts: (message: number) => boolean = () => true,
  ): void {
    const own = new Int32Array(terms.length).fill(UNKNOWN);
    for (let at = 0; at < messages.length; at++) {
      const message = messages[at] ?? 0;
      if (!counts(message)) continue;
      const term = places[at] ?? 0;
      if (own[term] === UNKNOWN) own[term] = this.#placeOf(terms[term] ?? '');
      this.#put(message, own[term] ?? 0);
    }
  }

  /** Octets in memory, about. */
  get weight(): number {
    return 8 * this.#count + OVERHEAD * this.#terms.size + this.#characters;
  }

  take(): Dictionary {
    return {
      terms: [...this.#terms.keys()],
      messages: this.#messages.slice(0, this.#count),
      places: this.#places.slice(0, this.#count),
    };
  }
}

function grown(numbers: Uint32Array<ArrayBuffer>): Uint32Array<ArrayBuffer> {
  const larger = new Uint32Array(2 * numbers.length);
  larger.set(numbers);
  return larger;
}

/** A source of columns: a database, or memory. */
export interface ColumnSource {
  /** Number of messages, which are numbered from 0. */
  readonly count: number;
  /** Visits the messages that have a value in this column, ascending. */
  scan(column: ColumnName, visit: (message: number, values: readonly string[]) => void): void;
  /** The same by distinct values; null if it is not known in this form. */
  maybeDictionary?(column: ColumnName): Dictionary | null;
  /** Visits the texts of all messages, in batches in ascending order. */
  texts(visit: (batch: TextBatch) => void): void;
  /** Visits whole messages, ascending: all of them, or this source's share if several threads share them. */
  messages(visit: (number: number, message: MailMessage, envelope: Envelope) => void): void;
}

/** Local part and domain of an address as one column value; without the separator if there is no domain. */
const DOMAIN_MARK = '\u0001';

export function packAddress(local: string, domain: string | null): string {
  return domain === null ? local : local + DOMAIN_MARK + domain;
}

export function unpackAddress(value: string): { local: string; domain: string | null } {
  const mark = value.lastIndexOf(DOMAIN_MARK);
  return mark < 0
    ? { local: value, domain: null }
    : { local: value.slice(0, mark), domain: value.slice(mark + DOMAIN_MARK.length) };
}

interface FieldColumns {
  readonly header: ColumnName;
  readonly address: ColumnName;
}

/** The columns of a field, by its name as written; most names are in every message. */
const fieldColumns = new Map<string, FieldColumns>();
const MOST_NAMES = 4000;

function columnsOfField(name: string): FieldColumns {
  const known = fieldColumns.get(name);
  if (known) return known;
  const lower = detached(name.toLowerCase());
  const columns: FieldColumns = { header: `header:${lower}`, address: `address:${lower}` };
  if (fieldColumns.size < MOST_NAMES) fieldColumns.set(detached(name), columns);
  return columns;
}

/** Calls `put` for each value of the columns of one message without its text: all, or those requested. */
export function eachColumn(
  message: MailMessage,
  envelope: Envelope,
  put: (column: ColumnName, value: string) => void,
  wanted: ReadonlySet<ColumnName> | null = null,
): void {
  const isWanted = (column: ColumnName) => wanted === null || wanted.has(column);
  for (const field of message.fields) {
    const { header, address } = columnsOfField(field.name);
    if (isWanted(header)) put(header, field.value);
    if (!isWanted(address)) continue;
    for (const { local, domain } of addressesOf(field)) put(address, packAddress(local, domain));
  }
  if (isWanted('size')) put('size', String(message.size));
  if (envelope.from !== null && isWanted('envelope:from')) put('envelope:from', envelope.from);
  if (envelope.to !== null && isWanted('envelope:to')) put('envelope:to', envelope.to);
}

/** Approximate octets of a batch. */
const BATCH_OCTETS = 1024 * 1024;

/** The part of a message that is stored: only what tests need. */
interface Kept {
  readonly whole: boolean;
  readonly text: boolean;
  /** The columns to store; null for all. */
  readonly columns: ReadonlySet<ColumnName> | null;
}

/** The values of a column in the order of their messages, and the message of each. */
interface Values {
  readonly messages: number[];
  readonly values: string[];
}

const NO_VALUES: Values = { messages: [], values: [] };

/** Columns in memory, for the command line and for tests. */
export class MemoryColumns implements ColumnSource {
  readonly #columns = new Map<ColumnName, Values>();
  readonly #texts: string[][] = [];
  readonly #whole: [MailMessage, Envelope][] = [];
  #count = 0;

  constructor(readonly keep: Kept = { whole: true, text: true, columns: null }) {}

  get count(): number {
    return this.#count;
  }

  add(message: MailMessage, envelope: Envelope): void {
    if (this.keep.text) this.#texts.push(readableTexts(message).map(foldedOctets));
    eachColumn(message, envelope, this.#put, this.keep.columns);
    if (this.keep.whole) this.#whole.push([message, envelope]);
    this.#count++;
  }

  readonly #put = (column: ColumnName, value: string): void => {
    let known = this.#columns.get(column);
    if (!known) {
      known = { messages: [], values: [] };
      this.#columns.set(column, known);
    }
    known.messages.push(this.#count);
    known.values.push(value);
  };

  messages(visit: (number: number, message: MailMessage, envelope: Envelope) => void): void {
    this.#whole.forEach(([message, envelope], number) => {
      visit(number, message, envelope);
    });
  }

  texts(visit: (batch: TextBatch) => void): void {
    const builder = new BatchBuilder();
    this.#texts.forEach((texts, message) => {
      for (const text of texts) builder.add(message, text);
      if (builder.length >= BATCH_OCTETS) visit(builder.take());
    });
    visit(builder.take());
  }

  scan(column: ColumnName, visit: (message: number, values: readonly string[]) => void): void {
    const { messages, values } = this.#columns.get(column) ?? NO_VALUES;
    for (let at = 0; at < messages.length; ) {
      const message = elementAt(messages, at);
      let end = at + 1;
      while (messages[end] === message) end++;
      visit(message, values.slice(at, end));
      at = end;
    }
  }
}
