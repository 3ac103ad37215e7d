import { elementAt } from './lookup';

// biome-ignore lint/suspicious/noControlCharactersInRegex: the range is the whole of US-ASCII
const ASCII_ONLY = /^[\x00-\x7f]*$/;

export const isAscii = (text: string): boolean => ASCII_ONLY.test(text);

/**
 * Folds A to Z and nothing else, as i;ascii-casemap does (RFC 4790 section 9.2; it folds to upper case, which
 * gives the same equalities). `toLowerCase` alone would also fold the Kelvin sign to k, or É to é.
 */
export function foldAscii(text: string): string {
  return isAscii(text) ? text.toLowerCase() : text.replace(/[A-Z]+/g, (run) => run.toLowerCase());
}

const encoder = new TextEncoder();

/**
 * An octet that belongs to no UTF-8 is held in texts as U+DC00 + octet, half of a surrogate pair that stands alone (as PEP 383
 * has it): so a text can hold any octets, and its characters are still those of the UTF-8 in it.
 */
const ALONE = 0xdc00;
const HALF = /[\uDC80-\uDCFF]/u;

/** A text that holds octets as they are; those that are no UTF-8 one by one, see above. */
export function textOfOctets(bytes: Uint8Array): string {
  let text = '';
  let run = 0;
  for (let at = 0; at < bytes.length; ) {
    const width = widthAt(bytes, at);
    if (width > 0) {
      at += width;
      continue;
    }
    text += plain.decode(bytes.subarray(run, at)) + String.fromCharCode(ALONE + elementAt(bytes, at));
    run = ++at;
  }
  return text + plain.decode(bytes.subarray(run));
}

const plain = new TextDecoder('utf-8', { ignoreBOM: true });

/** The octets of the character of UTF-8 that begins at a place; 0 where none does (RFC 3629 section 4). */
function widthAt(bytes: Uint8Array, at: number): number {
  const first = elementAt(bytes, at);
  if (first < 0x80) return 1;
  const width = first < 0xc2 ? 0 : first < 0xe0 ? 2 : first < 0xf0 ? 3 : first < 0xf5 ? 4 : 0;
  const second = bytes[at + 1] ?? 0;
  const low = first === 0xe0 ? 0xa0 : first === 0xf0 ? 0x90 : 0x80;
  const high = first === 0xed ? 0x9f : first === 0xf4 ? 0x8f : 0xbf;
  if (width === 0 || second < low || second > high) return 0;
  for (let next = 2; next < width; next++) if (((bytes[at + next] ?? 0) & 0xc0) !== 0x80) return 0;
  return width;
}

/** The octets of the UTF-8 form as a string of characters 0 to 255, since Sieve's comparators work on octets. */
export function toOctets(text: string): string {
  if (isAscii(text)) return text;
  if (HALF.test(text)) return Array.from(text, characterOctets).join('');
  const bytes = encoder.encode(text);
  let octets = '';
  for (let at = 0; at < bytes.length; at += 8192) octets += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return octets;
}

const isAlone = (code: number): boolean => code >= ALONE + 0x80 && code <= ALONE + 0xff;

function characterOctets(character: string): string {
  const code = character.codePointAt(0) ?? 0;
  if (code < 0x80) return character;
  return isAlone(code) ? String.fromCharCode(code - ALONE) : String.fromCharCode(...encoder.encode(character));
}

/** Turns an offset into `toOctets(text)` back into an offset into `text`; the middle of a character gives its start. */
export function fromOctetOffset(text: string, octet: number): number {
  if (isAscii(text)) return octet;
  let seen = 0;
  let at = 0;
  for (const character of text) {
    const code = character.codePointAt(0) ?? 0;
    const width = code < 0x80 || isAlone(code) ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
    if (seen + width > octet) return at;
    seen += width;
    at += character.length;
  }
  return text.length;
}
