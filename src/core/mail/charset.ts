import { isAscii } from '../text/fold';

const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
const fallback = new TextDecoder('windows-1252');

/**
 * Characters of a text beyond US-ASCII that are read at most. V8 has no string of more than half a thousand million
 * characters, and each of these may become three octets where tests compare octets.
 */
export const LONGEST_TEXT = 170_000_000;

/** Octets that are decoded at once: of some hundred millions Node.js aborts the process, not only the call. */
const PIECE = 32 * 1024 * 1024;

function inPieces(decoder: TextDecoder, bytes: Uint8Array): string {
  if (bytes.length <= PIECE) return decoder.decode(bytes);
  let text = '';
  try {
    for (let at = 0; at < bytes.length; at += PIECE) {
      text += decoder.decode(bytes.subarray(at, at + PIECE), { stream: true });
      // What is beyond is cut off anyway, or would be no string.
      if (text.length > 3 * LONGEST_TEXT) break;
    }
  } finally {
    // Ends the stream, so that the decoder begins anew.
    text += endOf(decoder);
  }
  return text;
}

function endOf(decoder: TextDecoder): string {
  try {
    return decoder.decode();
  } catch {
    return '';
  }
}

function bounded(text: string): string {
  return text.length <= LONGEST_TEXT || isAscii(text) ? text : text.slice(0, LONGEST_TEXT);
}

/** Text of unknown encoding: UTF-8 where it is well-formed (RFC 6532), else one character per octet. NUL is dropped. */
export function decodeText(bytes: Uint8Array): string {
  let text: string;
  try {
    text = inPieces(strict, bytes);
  } catch {
    text = inPieces(fallback, bytes);
  }
  return bounded(text.includes('\0') ? text.replaceAll('\0', '') : text);
}

/** One character for each octet, by windows-1252. */
export const octetText = (bytes: Uint8Array): string => inPieces(fallback, bytes);

const decoders = new Map<string, TextDecoder | null>();

/** Text in a named charset, or null where the charset is not known; malformed octets become U+FFFD. */
export function maybeDecode(bytes: Uint8Array, charset: string): string | null {
  const label = charset.trim().toLowerCase();
  let decoder = decoders.get(label);
  if (decoder === undefined) {
    try {
      decoder = new TextDecoder(label);
    } catch {
      decoder = null;
    }
    // Labels come from hostile mail: the memory of them stays small.
    if (decoders.size < 200) decoders.set(label, decoder);
  }
  return decoder ? bounded(inPieces(decoder, bytes)) : null;
}
