import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { and, asc, eq, lt } from 'drizzle-orm';
import type { ColumnName, ColumnSource } from '../core/flow/columns';
import { BatchBuilder, foldedOctets, type TextBatch } from '../core/flow/texts';
import { type Envelope, envelopeOf, type MailMessage, readableTexts, readMessage } from '../core/mail/message';
import { foldAscii } from '../core/text/fold';
import type { Store } from './database/open';
import { columnPieces } from './database/schema';
import { maybeRaw } from './raw';

/** One piece holds the values of up to this many messages. */
export const PIECE_MESSAGES = 512;

type Piece = [offset: number, values: string[]][];

/** Collects the columns of consecutive messages, to be written as pieces. */
export class ColumnWriter {
  readonly #columns = new Map<ColumnName, Piece>();

  constructor(readonly first: number) {}

  add(number: number, columns: ReadonlyMap<ColumnName, string[]>): void {
    for (const [column, values] of columns) {
      const piece = this.#columns.get(column);
      if (piece) piece.push([number - this.first, values]);
      else this.#columns.set(column, [[number - this.first, values]]);
    }
  }

  write(store: Store, auditId: string): void {
    for (const [column, piece] of this.#columns) {
      const data = deflateRawSync(JSON.stringify(piece), { level: 1 });
      store.insert(columnPieces).values({ auditId, column, first: this.first, data }).run();
    }
  }
}

/** Octets of text, about, after which a piece of the text column is written. */
const TEXT_PIECE = 1024 * 1024;
/** Texts of messages of more octets are not kept twice: they are read from the message itself. */
const TEXT_LIMIT = 4 * 1024 * 1024;
const TEXT_COLUMN = 'text';

/**
 * Writes the texts of consecutive messages, folded, as pieces: how many messages there are; for each of them how many
 * texts it has, or -1 where it is too long; for each text its octets; and then the texts. All numbers have four octets.
 */
export class TextWriter {
  #counts: number[] = [];
  #lengths: number[] = [];
  #texts: Buffer[] = [];
  #first = 0;
  #octets = 0;

  constructor(
    readonly store: Store,
    readonly auditId: string,
  ) {}

  add(number: number, message: MailMessage): void {
    if (this.#counts.length === 0) this.#first = number;
    const texts = message.size > TEXT_LIMIT ? null : readableTexts(message).map(foldAscii);
    this.#counts.push(texts?.length ?? -1);
    for (const text of texts ?? []) {
      const octets = Buffer.from(text);
      this.#texts.push(octets);
      this.#lengths.push(octets.length);
      this.#octets += octets.length;
    }
    if (this.#octets >= TEXT_PIECE || this.#counts.length >= PIECE_MESSAGES) this.flush();
  }

  flush(): void {
    if (this.#counts.length === 0) return;
    const head = Int32Array.from([this.#counts.length, ...this.#counts, ...this.#lengths]);
    const whole = Buffer.concat([Buffer.from(head.buffer), ...this.#texts]);
    const row = { auditId: this.auditId, column: TEXT_COLUMN, first: this.#first };
    this.store
      .insert(columnPieces)
      .values({ ...row, data: deflateRawSync(whole, { level: 1 }) })
      .run();
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
  /** Those whose texts are in no piece. */
  readonly long: readonly number[];
}

/** The texts of one piece, from message `first` on; those of messages from `count` on are left out. */
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
      edges.push((edges[edges.length - 1] as number) + at(next++));
      if (first + offset < count) owners.push(first + offset);
    }
  }
  return { batch: { octets: whole.toString('latin1', next * 4), edges, messages: owners }, messages, long };
}

/** Reads columns piece by piece: what is held at once does not grow with the mailbox. */
export class StoredColumns implements ColumnSource {
  constructor(
    readonly store: Store,
    readonly auditId: string,
    readonly count: number,
  ) {}

  /** Messages whose texts are in no piece, since they are long or came in before texts were kept, are read anew. */
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

  scan(column: ColumnName, visit: (message: number, values: readonly string[]) => void): void {
    for (const first of this.#firsts(column)) {
      const data = this.#data(column, first);
      const piece = data ? (JSON.parse(inflateRawSync(data).toString()) as Piece) : [];
      for (const [offset, values] of piece) if (first + offset < this.count) visit(first + offset, values);
    }
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
    for (let number = 0; number < this.count; number++) {
      const message = readMessage(this.#raw(number));
      visit(number, message, envelopeOf(message, null));
    }
  }

  #raw(number: number): Buffer {
    const raw = maybeRaw(this.store, this.auditId, number);
    if (!raw) throw new Error(`message ${number} is not stored`);
    return raw;
  }

  #data(column: string, first: number): Buffer | undefined {
    return this.store
      .select({ data: columnPieces.data })
      .from(columnPieces)
      .where(
        and(eq(columnPieces.auditId, this.auditId), eq(columnPieces.column, column), eq(columnPieces.first, first)),
      )
      .get()?.data;
  }
}
