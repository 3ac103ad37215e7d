import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { and, asc, eq } from 'drizzle-orm';
import type { Store } from '../database/open';
import { rawPieces } from '../database/schema';

/** Octets of a piece, so that a huge message never needs one huge database value. */
const PIECE_OCTETS = 4 * 1024 * 1024;

/** A stored piece of a message. */
export interface RawRow {
  readonly number: number;
  readonly piece: number;
  readonly data: Uint8Array;
}

/** The compressed octets of a message, from which they are restored exactly. */
export function rawRows(number: number, raw: Uint8Array): RawRow[] {
  const rows: RawRow[] = [];
  for (let piece = 0; piece === 0 || piece * PIECE_OCTETS < raw.length; piece++) {
    const part = raw.subarray(piece * PIECE_OCTETS, (piece + 1) * PIECE_OCTETS);
    rows.push({ number, piece, data: deflateRawSync(part, { level: 3 }) });
  }
  return rows;
}

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
