import { elementAt } from '../text/lookup';
import { decodeText, maybeDecode } from './charset';
import { fromBase64, fromQuotedPrintable } from './encodings';
import { type HeaderField, placesNamed, readHeaders } from './headers';
import { type ReadWords, readHtml } from './html';
import { parseParameters } from './parameters';

/** One entity of a message by RFC 2045 to 2046: the message itself, a part of a multipart, or an enclosed message. */
export interface MimePart {
  readonly fields: readonly HeaderField[];
  /** In lower case, `text/plain` by default (RFC 2045 section 5.2). */
  readonly type: string;
  readonly parameters: ReadonlyMap<string, string>;
  /** The encoded body; for a multipart with all its parts. */
  readonly body: Uint8Array;
  /** The parts of a multipart, or the one message of a message/rfc822. */
  readonly children: readonly MimePart[];
  /** The text before the first and after the last boundary of a multipart; otherwise empty. */
  readonly prologue: Uint8Array;
  readonly epilogue: Uint8Array;
}

/** Deeper or further parts are opaque octets of their enclosing entity. */
const DEPTH_LIMIT = 64;
const PART_LIMIT = 10_000;

/** Reads the structure of a message whose header is known. Never throws. */
export function readParts(fields: readonly HeaderField[], body: Uint8Array): MimePart {
  return readEntity(fields, body, 0, { left: PART_LIMIT });
}

/** Parts whose contents were not read because they are nested too deeply. */
const tooDeep = new WeakSet<MimePart>();
export const isAtDepthLimit = (part: MimePart): boolean => tooDeep.has(part);

function readEntity(
  fields: readonly HeaderField[],
  body: Uint8Array,
  depth: number,
  budget: { left: number },
): MimePart {
  const { value, parameters } = parseParameters(fieldValue(fields, 'content-type') ?? 'text/plain');
  const type = /^[^\s/]+\/[^\s/]+$/.test(value) ? value.toLowerCase() : 'text/plain';
  const leaf: MimePart = { fields, type, parameters, body, children: [], prologue: NOTHING, epilogue: NOTHING };
  if (depth >= DEPTH_LIMIT || budget.left <= 0) {
    if (/^(multipart|message)\//.test(type)) tooDeep.add(leaf);
    return leaf;
  }
  budget.left--;
  if (type.startsWith('multipart/')) return readMultipart(leaf, depth, budget);
  if (type === 'message/rfc822' || type === 'message/global') {
    const raw = decodedBody(leaf);
    const inner = readHeaders(raw);
    return { ...leaf, children: [readEntity(inner.fields, raw.subarray(inner.bodyStart), depth + 1, budget)] };
  }
  return leaf;
}

const NOTHING = new Uint8Array(0);

function readMultipart(part: MimePart, depth: number, budget: { left: number }): MimePart {
  const boundary = part.parameters.get('boundary');
  if (!boundary) return part;
  const { prologue, pieces, epilogue, isCut } = splitAt(part.body, boundary, budget.left);
  const children = pieces.map((piece) => {
    const inner = readHeaders(piece);
    return readEntity(inner.fields, piece.subarray(inner.bodyStart), depth + 1, budget);
  });
  const whole: MimePart = { ...part, children, prologue, epilogue };
  if (isCut) tooDeep.add(whole);
  return whole;
}

interface Pieces {
  readonly prologue: Uint8Array;
  readonly pieces: readonly Uint8Array[];
  readonly epilogue: Uint8Array;
  /** Whether there are more pieces, which are in the epilogue. */
  readonly isCut: boolean;
}

/**
 * A line that begins with the boundary is one, whatever follows on it (RFC 2046 section 5.1.1: no exact match of the whole line
 * is required), unless it is that of a part within, whose boundary begins alike. The line end before it belongs to it. A
 * missing last one is the end.
 */
function splitAt(body: Uint8Array, boundary: string, most: number): Pieces {
  const mark = new TextEncoder().encode(`--${boundary}`);
  const pieces: Uint8Array[] = [];
  let prologue: Uint8Array | null = null;
  let start = 0;
  let longer: readonly Uint8Array[] | null = null;
  for (let at = findLine(body, mark, 0); at >= 0; at = findLine(body, mark, at + mark.length)) {
    const rest = at + mark.length;
    const lineEnd = body.indexOf(LF, rest);
    const closing = body[rest] === DASH && body[rest + 1] === DASH;
    if (!isBlank(body, closing ? rest + 2 : rest, lineEnd)) {
      longer ??= longerMarks(body, boundary);
      if (longer.some((other) => startsAt(body, other, at))) continue;
    }
    const piece = body.subarray(start, withoutLineEnd(body, start, at));
    if (prologue === null) prologue = piece;
    else if (pieces.length >= most) return { prologue, pieces, epilogue: body.subarray(start), isCut: true };
    else pieces.push(piece);
    start = lineEnd < 0 ? body.length : lineEnd + 1;
    if (closing) return { prologue, pieces, epilogue: body.subarray(start), isCut: false };
  }
  if (prologue === null) return { prologue: body, pieces, epilogue: NOTHING, isCut: false };
  return { prologue, pieces: [...pieces, body.subarray(start)], epilogue: NOTHING, isCut: false };
}

const LF = 10;
const DASH = 45;

/** Whether nothing but white space stands before the end of the line. */
function isBlank(body: Uint8Array, from: number, lineEnd: number): boolean {
  const end = lineEnd < 0 ? body.length : lineEnd;
  for (let at = from; at < end; at++) if (![32, 9, 13].includes(elementAt(body, at))) return false;
  return true;
}

/** The boundary lines named in a body that start with another boundary and continue. */
function longerMarks(body: Uint8Array, boundary: string): Uint8Array[] {
  const named = decodeText(body).matchAll(/boundary\s{0,9}=\s{0,9}(?:"([^"\r\n]{1,200})"|([^\s";]{1,200}))/gi);
  const longer = [...named].flatMap(([, quoted, plain]) => {
    const name = quoted ?? plain ?? '';
    return name.length > boundary.length && name.startsWith(boundary) ? [name] : [];
  });
  return [...new Set(longer)].map((name) => new TextEncoder().encode(`--${name}`));
}

const startsAt = (body: Uint8Array, mark: Uint8Array, at: number): boolean =>
  mark.every((octet, index) => body[at + index] === octet);

function findLine(body: Uint8Array, mark: Uint8Array, from: number): number {
  for (let at = body.indexOf(45, from); at >= 0; at = body.indexOf(45, at + 1)) {
    if ((at === 0 || body[at - 1] === LF) && startsAt(body, mark, at)) return at;
  }
  return -1;
}

function withoutLineEnd(body: Uint8Array, start: number, end: number): number {
  if (end <= start || body[end - 1] !== LF) return end;
  return end - 2 >= start && body[end - 2] === 13 ? end - 2 : end - 1;
}

export function fieldValue(fields: readonly HeaderField[], name: string): string | null {
  const [place] = placesNamed(fields, name);
  return place === undefined ? null : elementAt(fields, place).value;
}

/** In lower case; null if none is named. */
export const transferEncoding = ({ fields }: MimePart): string | null =>
  fieldValue(fields, 'content-transfer-encoding')?.toLowerCase().trim() ?? null;

/** The decoded body (RFC 2045 section 6); an unknown encoding is ignored. */
export function decodedBody(part: MimePart): Uint8Array {
  const encoding = transferEncoding(part);
  if (encoding === 'base64') return fromBase64(part.body);
  if (encoding === 'quoted-printable') return fromQuotedPrintable(part.body);
  return part.body;
}

/** The body as text, with transfer encoding and charset decoded. */
export function decodedText(part: MimePart): string {
  const bytes = decodedBody(part);
  const charset = part.parameters.get('charset');
  return (charset ? maybeDecode(bytes, charset) : null) ?? decodeText(bytes);
}

const read = new WeakMap<MimePart, ReadWords>();

/** Cached, since many tests read the same text. */
function readPart(part: MimePart): ReadWords {
  const known = read.get(part);
  if (known) return known;
  const text = decodedText(part);
  const words = part.type === 'text/html' ? readHtml(text) : { text, odd: false };
  read.set(part, words);
  return words;
}

/** The readable text of a text part; HTML reduced to its text. */
export const readableText = (part: MimePart): string => readPart(part).text;

/** Whether a part is HTML with irregular markup. */
export const isOddHtml = (part: MimePart): boolean => part.type === 'text/html' && readPart(part).odd;

/** A part and all parts within it, in message order. */
export function* walkParts(part: MimePart): Generator<MimePart> {
  yield part;
  for (const child of part.children) yield* walkParts(child);
}
