import iconv from 'iconv-lite';
import { isAscii } from '../text/fold';
import { asBuffer } from '../text/octets';

/**
 * Most characters of a text beyond US-ASCII. V8 has no string of more than about 500 million characters, and each of
 * these may become three octets where tests compare octets.
 */
export const LONGEST_TEXT = 170_000_000;

/** Octets decoded at once: beyond some hundred million, Node.js aborts the process, not only the call. */
const PIECE = 32 * 1024 * 1024;

/** Decodes octets piece by piece; `end` returns what was held back, and the next piece starts a new text. */
interface Decoder {
  /** A text in one piece; after a fault, the next one starts anew. */
  readonly whole: (bytes: Uint8Array) => string;
  readonly write: (piece: Uint8Array) => string;
  readonly end: () => string;
}

function unicodeDecoder(label: string, fatal = false): Decoder {
  const decoder = new TextDecoder(label, { fatal, ignoreBOM: fatal });
  // One that was never given a piece is several times as fast.
  const whole = new TextDecoder(label, { fatal, ignoreBOM: fatal });
  return {
    whole: (bytes) => whole.decode(bytes),
    write: (piece) => decoder.decode(piece, { stream: true }),
    end: () => decoder.decode(),
  };
}

const strict = unicodeDecoder('utf-8', true);

/** A decoder of iconv-lite cannot be reused, so each text gets a new one. */
function tableDecoder(encoding: string): Decoder {
  let decoder = iconv.getDecoder(encoding);
  return {
    whole: (bytes) => {
      const own = iconv.getDecoder(encoding);
      return own.write(asBuffer(bytes)) + (own.end() ?? '');
    },
    write: (piece) => decoder.write(asBuffer(piece)),
    end: () => {
      const rest = decoder.end() ?? '';
      decoder = iconv.getDecoder(encoding);
      return rest;
    },
  };
}

/** The fallback for octets beyond US-ASCII (common practice). */
const fallback = tableDecoder('windows-1252');

function inPieces(decoder: Decoder, bytes: Uint8Array): string {
  if (bytes.length <= PIECE) return decoder.whole(bytes);
  let text = '';
  let ended = false;
  try {
    for (let at = 0; at < bytes.length; at += PIECE) {
      text += decoder.write(bytes.subarray(at, at + PIECE));
      // The rest would be cut off anyway, or exceed a string.
      if (text.length > 3 * LONGEST_TEXT) break;
    }
    ended = true;
    return text + decoder.end();
  } finally {
    // After a fault, a decoder starts again.
    if (!ended) quietly(() => decoder.end());
  }
}

function quietly(ending: () => string): void {
  try {
    ending();
  } catch {
    // The fault was thrown already.
  }
}

function bounded(text: string): string {
  return text.length <= LONGEST_TEXT || isAscii(text) ? text : text.slice(0, LONGEST_TEXT);
}

/** Text of unknown encoding: UTF-8 if well formed (RFC 6532), else windows-1252. NUL is removed. */
export function decodeText(bytes: Uint8Array): string {
  const text = maybeUtf8(bytes) ?? inPieces(fallback, bytes);
  return bounded(text.includes('\0') ? text.replaceAll('\0', '') : text);
}

/** The text of octets that are well-formed UTF-8, else null. */
export function maybeUtf8(bytes: Uint8Array): string | null {
  try {
    return inPieces(strict, bytes);
  } catch {
    return null;
  }
}

/**
 * Names that in mail mean another charset than their own, as browsers read them (WHATWG Encoding section 4.2);
 * iconv-lite's tables follow the standards of the names.
 */
const MEANT: ReadonlyMap<string, string> = new Map([
  ...['ascii', 'us-ascii', 'ansi_x3.4-1968', 'iso-8859-1', 'iso8859-1', 'iso_8859-1', 'latin1', 'l1', 'cp819'].map(
    (label) => [label, 'windows-1252'] as const,
  ),
  ...['iso-8859-9', 'iso8859-9', 'iso_8859-9', 'latin5', 'l5'].map((label) => [label, 'windows-1254'] as const),
  ...['iso-8859-11', 'iso8859-11', 'tis-620'].map((label) => [label, 'windows-874'] as const),
  ...['iso-8859-8-i', 'iso-8859-8-e', 'logical', 'visual'].map((label) => [label, 'iso-8859-8'] as const),
  ['iso-8859-6-i', 'iso-8859-6'],
  ['iso-8859-6-e', 'iso-8859-6'],
  ['ks_c_5601-1987', 'cp949'],
  ['ks_c_5601-1989', 'cp949'],
  ['x-sjis', 'shift_jis'],
  ['windows-31j', 'shift_jis'],
  ['x-x-big5', 'big5-hkscs'],
  ['big5', 'big5-hkscs'],
  ['unicode-1-1-utf-8', 'utf-8'],
  ['x-mac-roman', 'macintosh'],
  ['x-mac-cyrillic', 'maccyrillic'],
]);

/** Charsets without a table in iconv-lite, since they shift between tables; TextDecoder reads all of them alike. */
const SHIFTING = /^(iso-2022-jp|csiso2022jp)$/;
/** Plain UTF-16 is left to iconv-lite, which looks for its byte order mark. */
const UNICODE = /^utf-?(8|16le|16be)$/;
/** Further names of iconv-lite that are not charsets of mail. */
const NO_CHARSET = /^(base64|hex|binary|internal|_.*)$/;

const decoders = new Map<string, Decoder | null>();

function maybeDecoder(label: string): Decoder | null {
  const name = MEANT.get(label) ?? label;
  if (SHIFTING.test(name)) return unicodeDecoder('iso-2022-jp');
  if (UNICODE.test(name)) return unicodeDecoder(name.replace(/^utf-?/, 'utf-'));
  if (NO_CHARSET.test(name.replace(/[^a-z0-9_]/g, ''))) return null;
  return iconv.encodingExists(name) ? tableDecoder(name) : null;
}

/** Text in a named charset, or null if the charset is unknown; malformed octets become U+FFFD. */
export function maybeDecode(bytes: Uint8Array, charset: string): string | null {
  const decoder = decoderNamed(charset);
  return decoder ? bounded(inPieces(decoder, bytes)) : null;
}

/** Whether text in a charset of this name can be decoded. */
export const isKnownCharset = (charset: string): boolean => decoderNamed(charset) !== null;

function decoderNamed(charset: string): Decoder | null {
  const label = charset.trim().toLowerCase();
  let decoder = decoders.get(label);
  if (decoder === undefined) {
    decoder = maybeDecoder(label);
    // Labels come from hostile mail, so their cache stays small.
    if (decoders.size < 200) decoders.set(label, decoder);
  }
  return decoder;
}
