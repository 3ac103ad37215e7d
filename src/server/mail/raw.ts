import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { and, asc, eq } from 'drizzle-orm';
import type { Store } from '../database/open';
import { rawPieces } from '../database/schema';

/** Octets per piece, so that a huge message never needs one huge value in the database. */
const PIECE_OCTETS = 4 * 1024 * 1024;

/** A piece of a message as it is kept. */
export interface RawRow {
  readonly number: number;
  readonly piece: number;
  readonly data: Uint8Array;
}

/** The octets of a message, packed, from which they come back exactly. */
export function rawRows(number: number, raw: Uint8Array): RawRow[] {
  const rows: RawRow[] = [];
  for (let piece = 0; piece === 0 || piece * PIECE_OCTETS < raw.length; piece++) {
    const part = raw.subarray(piece * PIECE_OCTETS, (piece + 1) * PIECE_OCTETS);
    rows.push({ number, piece, data: deflateRawSync(part, { level: 3 }) });
  }
  return rows;
}

/**
 * The octets of a message, byte for byte as they were brought in, or null where there is no such message. With `least`
 * only as many pieces are read as hold that many octets.
 */
export function maybeRaw(
  store: Store,
  auditId: string,
  number: number,
  least = Number.POSITIVE_INFINITY,
): Buffer | null {
  const rows = store
    .select({ data: rawPieces.data })
    .from(rawPieces)
    .where(and(eq(rawPieces.auditId, auditId), eq(rawPieces.number, number)))
    .orderBy(asc(rawPieces.piece))
    .limit(Number.isFinite(least) ? Math.ceil(least / PIECE_OCTETS) : -1)
    .all();
  if (rows.length === 0) return null;
  return Buffer.concat(rows.map((row) => inflateRawSync(row.data)));
}
