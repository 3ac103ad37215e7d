import { trimOf } from '../text/blanks';
import { elementAt, groupedBy } from '../text/lookup';
import { detached } from '../text/octets';
import { decodeText, maybeUtf8 } from './charset';
import { decodeWords } from './encodedwords';

/** One header field of a message, in order. */
export interface HeaderField {
  /** As written. */
  readonly name: string;
  /** Unfolded (RFC 5322 section 2.2.3) and trimmed, with encoded words not decoded. */
  readonly raw: string;
  /** As Sieve compares it: encoded words decoded (RFC 2047, RFC 5228 section 2.7.2) and trimmed (section 5.7). */
  readonly value: string;
}

export interface HeaderBlock {
  readonly fields: readonly HeaderField[];
  /** Offset of the first octet of the body; the length of the message if it has none. */
  readonly bodyStart: number;
  /** Header lines that are not fields, word for word. */
  readonly strangeLines: readonly string[];
}

const LF = 10;
const TAB = 9;
const SPACE = 32;
const CR = 13;
const FIELD = /^([!-9;-~]+)[ \t]*:(.*)$/s;

/** RFC 5322 section 2.2: printable US-ASCII without the colon. */
export const HEADER_NAME = /^[!-9;-~]+$/;

/** The most fields read from a message; no real message has as many, and servers accept far fewer (common practice). */
const MOST_FIELDS = 20_000;
/** The same with the lines that are not fields. */
const MOST_LINES = 2 * MOST_FIELDS;
/** The most characters read from a field. */
const LONGEST_FIELD = 4 * 1024 * 1024;

/** The header of a message ends at its first empty line. Line ends are CRLF or LF. Never throws. */
export function readHeaders(raw: Uint8Array): HeaderBlock {
  const { headerEnd, bodyStart } = findHeaderEnd(raw);
  const fields: HeaderField[] = [];
  const strangeLines: string[] = [];
  for (const whole of fieldLines(raw.subarray(0, headerEnd))) {
    const line = whole.slice(0, LONGEST_FIELD);
    if (line === '') continue;
    if (fields.length >= MOST_FIELDS) break;
    const parts = FIELD.exec(line);
    if (parts) {
      const value = trimmed(unfolded(elementAt(parts, 2)));
      fields.push({ name: elementAt(parts, 1), raw: value, value: trimmed(decodeWords(value)) });
    } else strangeLines.push(line);
  }
  return { fields, bodyStart, strangeLines };
}

/** A line that starts with white space continues the previous field. */
const FIELD_END = /\r?\n(?![ \t])/;

/** Each field as written. Its encoding is guessed separately, since each may come from another program. */
function fieldLines(block: Uint8Array): string[] {
  const whole = maybeUtf8(block);
  if (whole !== null) return whole.replaceAll('\0', '').split(FIELD_END, MOST_LINES);
  const lines: string[] = [];
  let start = 0;
  for (let end = block.indexOf(LF); end >= 0; end = block.indexOf(LF, end + 1)) {
    const next = block[end + 1];
    if (next === SPACE || next === TAB) continue;
    if (lines.length >= MOST_LINES) return lines;
    lines.push(fieldLine(block, start, block[end - 1] === CR && end > start ? end - 1 : end));
    start = end + 1;
  }
  return [...lines, fieldLine(block, start, block.length)];
}

const fieldLine = (block: Uint8Array, start: number, end: number): string => decodeText(block.subarray(start, end));

/**
 * Unfolding removes the line end and keeps the white space after it (RFC 5322 section 2.2.3); a tab that only folds the
 * line reads as one space (common practice).
 */
const unfolded = (value: string): string => value.replace(/\r?\n([ \t])/g, ' ');

/** Trims the white space of RFC 5322; a no-break space, say, is an ordinary character. */
export const trimmed = (value: string): string => trimOf(' \t\r\n', value);

function findHeaderEnd(raw: Uint8Array): { headerEnd: number; bodyStart: number } {
  let lineStart = 0;
  while (lineStart < raw.length) {
    const end = raw.indexOf(LF, lineStart);
    const stop = end < 0 ? raw.length : end;
    const length = stop - lineStart - (raw[stop - 1] === CR && stop > lineStart ? 1 : 0);
    if (length === 0) return { headerEnd: lineStart, bodyStart: end < 0 ? raw.length : end + 1 };
    // If the first line is not a field, as in binary data, there is no header at all.
    if (lineStart === 0 && !looksLikeField(raw.subarray(0, Math.min(stop, 1000))))
      return { headerEnd: 0, bodyStart: 0 };
    lineStart = stop + 1;
  }
  return { headerEnd: raw.length, bodyStart: raw.length };
}

function looksLikeField(line: Uint8Array): boolean {
  const colon = line.indexOf(58);
  if (colon < 1) return false;
  return line.subarray(0, colon).every((octet) => (octet >= 33 && octet <= 126) || octet === 32 || octet === 9);
}

const placesCache = new WeakMap<readonly HeaderField[], ReadonlyMap<string, readonly number[]>>();
const NOWHERE: readonly number[] = [];

/** The indexes of all fields of a name, caseless; a header is read once, however many tests ask. */
export function placesNamed(fields: readonly HeaderField[], name: string): readonly number[] {
  let places = placesCache.get(fields);
  if (!places) {
    places = groupedBy(fields.keys(), (place) => lowerName(elementAt(fields, place).name));
    placesCache.set(fields, places);
  }
  return places.get(lowerName(name)) ?? NOWHERE;
}

/** Names in lower case; most are in every message. */
const lowerNames = new Map<string, string>();
const MOST_NAMES = 4000;

function lowerName(name: string): string {
  const known = lowerNames.get(name);
  if (known !== undefined) return known;
  const lower = detached(name.toLowerCase());
  if (lowerNames.size < MOST_NAMES) lowerNames.set(detached(name), lower);
  return lower;
}
