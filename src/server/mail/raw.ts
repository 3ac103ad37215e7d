import { constants, type ZlibOptions } from 'node:zlib';
import { and, asc, desc, eq, lte, sql } from 'drizzle-orm';
import { elementAt } from '../../core/text/lookup';
import { deflated, inflated } from '../../files/packing';
import type { Store } from '../database/open';
import { rawPieces } from '../database/schema';

/** Octets of a piece, so that a huge message never needs one huge database value. */
const PIECE_OCTETS = 4 * 1024 * 1024;
/** Octets of the messages that are compressed together, which takes a tenth of the time and a third of the space. */
const BLOCK_OCTETS = 64 * 1024;

/** A stored piece of a message, or several consecutive messages. */
export interface RawRow {
  /** Of the first message. */
  readonly number: number;
  readonly piece: number;
  /** How many messages; several are whole. */
  readonly count: number;
  readonly data: Uint8Array;
}

/**
 * Collects the octets of consecutive messages, compressed. A row of several messages begins with the length of each, in four
 * octets, little-endian; a larger message has rows of its own.
 */
export class RawBlocks {
  readonly #rows: RawRow[] = [];
  #first = 0;
  #raws: Uint8Array[] = [];
  #octets = 0;

  add(number: number, raw: Uint8Array): void {
    if (this.#octets + raw.length > BLOCK_OCTETS) this.#close();
    if (this.#raws.length === 0) this.#first = number;
    this.#raws.push(raw);
    this.#octets += raw.length;
  }

  take(): readonly RawRow[] {
    this.#close();
    return this.#rows;
  }

  #close(): void {
    const [only, ...others] = this.#raws;
    if (only === undefined) return;
    const number = this.#first;
    if (others.length === 0) {
      for (let piece = 0; piece === 0 || piece * PIECE_OCTETS < only.length; piece++) {
        const part = only.subarray(piece * PIECE_OCTETS, (piece + 1) * PIECE_OCTETS);
        this.#rows.push({ number, piece, count: 1, data: deflated(part, settingsFor(part)) });
      }
    } else {
      const { length: count } = this.#raws;
      const head = Buffer.alloc(4 * count);
      for (const [at, { length }] of this.#raws.entries()) head.writeUInt32LE(length, 4 * at);
      const data = deflated(Buffer.concat([head, ...this.#raws]), { level: 1 });
      this.#rows.push({ number, piece: 0, count, data });
    }
    this.#raws = [];
    this.#octets = 0;
  }
}

const REPEATING: ZlibOptions = { level: 1 };
/** Base64 of what is compressed already has nothing that repeats; not looking for it takes a third of the time. */
const NOT_REPEATING: ZlibOptions = { level: 1, strategy: constants.Z_HUFFMAN_ONLY };

/** Octets in the middle of a large piece that show whether it repeats itself, and the share it then shrinks to. */
const SAMPLE = 16 * 1024;
const SHRUNK = 0.7;

function settingsFor(part: Uint8Array): ZlibOptions {
  const middle = Math.max(0, (part.length - SAMPLE) >> 1);
  const sample = part.subarray(middle, middle + SAMPLE);
  return deflated(sample, REPEATING).length > SHRUNK * sample.length ? NOT_REPEATING : REPEATING;
}

/** Prepared once, since all messages may be read one after another. */
const preparedBlock = (store: Store) =>
  store
    .select({ first: rawPieces.number, count: rawPieces.count, data: rawPieces.data })
    .from(rawPieces)
    .where(and(eq(rawPieces.auditId, sql.placeholder('auditId')), lte(rawPieces.number, sql.placeholder('number'))))
    .orderBy(desc(rawPieces.number), asc(rawPieces.piece))
    .limit(1)
    .prepare();
const prepareds = new WeakMap<Store, ReturnType<typeof preparedBlock>>();

/**
 * The octets of a message, byte for byte, or null if there is no such message. With `least`, reads only as many pieces
 * as contain that many octets.
 */
export function maybeRaw(
  store: Store,
  auditId: string,
  number: number,
  least = Number.POSITIVE_INFINITY,
): Buffer | null {
  const prepared = prepareds.get(store) ?? preparedBlock(store);
  prepareds.set(store, prepared);
  const block = prepared.get({ auditId, number });
  if (!block || number >= block.first + block.count) return null;
  if (block.count > 1) return withinBlock(block, number - block.first);
  const rows = store
    .select({ data: rawPieces.data })
    .from(rawPieces)
    .where(and(eq(rawPieces.auditId, auditId), eq(rawPieces.number, number)))
    .orderBy(asc(rawPieces.piece))
    .limit(Number.isFinite(least) ? Math.ceil(least / PIECE_OCTETS) : -1)
    .all();
  return Buffer.concat(rows.map((row) => inflated(row.data)));
}

/** The block read last: messages are mostly read one after another. */
let recent: { readonly data: Buffer; readonly messages: readonly Buffer[] } | null = null;

function withinBlock({ data, count }: { readonly data: Buffer; readonly count: number }, at: number): Buffer {
  if (!recent?.data.equals(data)) {
    const whole = inflated(data);
    let from = 4 * count;
    const messages = Array.from({ length: count }, (_, index) => {
      const start = from;
      from += whole.readUInt32LE(4 * index);
      return whole.subarray(start, from);
    });
    recent = { data, messages };
  }
  return Buffer.from(elementAt(recent.messages, at));
}
