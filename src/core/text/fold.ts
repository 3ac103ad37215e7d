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

/** The octets of the UTF-8 form as a string of characters 0 to 255, since Sieve's comparators work on octets. */
export function toOctets(text: string): string {
  if (isAscii(text)) return text;
  const bytes = encoder.encode(text);
  let octets = '';
  for (let at = 0; at < bytes.length; at += 8192) octets += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return octets;
}

/** Turns an offset into `toOctets(text)` back into an offset into `text`; the middle of a character gives its start. */
export function fromOctetOffset(text: string, octet: number): number {
  if (isAscii(text)) return octet;
  let seen = 0;
  let at = 0;
  for (const character of text) {
    const code = character.codePointAt(0) as number;
    const width = code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
    if (seen + width > octet) return at;
    seen += width;
    at += character.length;
  }
  return text.length;
}
