import type { AuditResult } from '../../core/audit/catalogue';
import type { Repair, Statement } from '../../core/audit/finding';
import { elementAt, ownJson } from '../../core/text/lookup';
import { deflated, inflated } from '../../files/packing';

/** The result of an audit as pages need it; repairs are loaded for one finding at a time. */
export interface KeptResult extends Omit<AuditResult, 'findings'> {
  readonly findings: readonly Statement[];
}

/** The stored form: deflated pieces of JSON, each preceded by its length in four octets, little-endian. */
export interface PackedResult {
  readonly statements: Buffer;
  /** Of the findings in the same order. */
  readonly repairs: Buffer;
}

/** Findings in one piece. */
const PIECE = 200;

/** Findings often share their messages, so each set of messages is written once. */
interface StatementsPiece {
  /** Sets that no earlier piece contains. */
  readonly sets: readonly string[];
  /** The messages of a finding are stored as the index of their set, counted through all pieces. */
  readonly statements: readonly (Omit<Statement, 'messages'> & { readonly messages: number })[];
}

/** `checkpoint` is called before each piece, and may throw to cancel. */
export function packResult({ findings, ...rest }: AuditResult, checkpoint: () => void): PackedResult {
  const places = new Map<string, number>();
  const statements = [packPiece(rest)];
  const repairs: Buffer[] = [];
  for (let from = 0; from < findings.length; from += PIECE) {
    checkpoint();
    const some = findings.slice(from, from + PIECE);
    const sets: string[] = [];
    const placeOf = (messages: readonly number[]): number => {
      const set = packSet(messages);
      const known = places.get(set);
      if (known !== undefined) return known;
      sets.push(set);
      places.set(set, places.size);
      return places.size - 1;
    };
    const piece: StatementsPiece = {
      sets,
      statements: some.map(({ repairs: _, messages, ...statement }) => ({ ...statement, messages: placeOf(messages) })),
    };
    statements.push(packPiece(piece));
    repairs.push(packPiece(some.map((finding) => finding.repairs)));
  }
  checkpoint();
  return { statements: Buffer.concat(statements), repairs: Buffer.concat(repairs) };
}

export function readResult(packed: Buffer): KeptResult {
  const [first, ...pieces] = piecesOf(packed);
  if (!first) throw new Error('a result without its first piece');
  const sets: (readonly number[])[] = [];
  const findings: Statement[] = [];
  for (const data of pieces) {
    const piece = readPiece<StatementsPiece>(data);
    for (const set of piece.sets) sets.push(readSet(set));
    for (const one of piece.statements) findings.push({ ...one, messages: elementAt(sets, one.messages) });
  }
  return { ...readPiece<Omit<KeptResult, 'findings'>>(first), findings };
}

/** The repairs of the finding at an index. */
export function readRepairs(packed: Buffer, place: number): readonly Repair[] {
  const piece = [...piecesOf(packed)][Math.floor(place / PIECE)];
  return (piece && readPiece<Repair[][]>(piece)[place % PIECE]) ?? [];
}

/** Those of all findings, in order. */
export const readAllRepairs = (packed: Buffer): (readonly Repair[])[] =>
  [...piecesOf(packed)].flatMap((piece) => readPiece<Repair[][]>(piece));

function packPiece(data: object): Buffer {
  const packed = deflated(JSON.stringify(data), { level: 1 });
  const length = Buffer.alloc(4);
  length.writeUInt32LE(packed.length);
  return Buffer.concat([length, packed]);
}

const readPiece = <T>(packed: Buffer): T => ownJson(inflated(packed).toString());

function* piecesOf(packed: Buffer): Generator<Buffer> {
  for (let at = 0; at < packed.length; ) {
    const end = at + 4 + packed.readUInt32LE(at);
    yield packed.subarray(at + 4, end);
    at = end;
  }
}

/** The most octets of one difference. */
const MOST_OCTETS = 5;

/**
 * Ascending numbers below 2^31 as base64 of their differences: seven bits an octet, little-endian; bit 8 means that
 * more follow.
 */
function packSet(numbers: readonly number[]): string {
  const octets = Buffer.alloc(numbers.length * MOST_OCTETS);
  let length = 0;
  let before = 0;
  for (const number of numbers) {
    let difference = number - before;
    for (; difference > 0x7f; difference >>>= 7) octets[length++] = (difference & 0x7f) | 0x80;
    octets[length++] = difference;
    before = number;
  }
  return octets.toString('base64', 0, length);
}

function readSet(text: string): number[] {
  const numbers: number[] = [];
  let [number, difference, shift] = [0, 0, 0];
  for (const octet of Buffer.from(text, 'base64')) {
    difference |= (octet & 0x7f) << shift;
    shift += 7;
    if (octet & 0x80) continue;
    number += difference;
    numbers.push(number);
    [difference, shift] = [0, 0];
  }
  return numbers;
}
