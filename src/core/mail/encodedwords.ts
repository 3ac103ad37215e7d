import { elementAt } from '../text/lookup';
import { joinOctets } from '../text/octets';
import { maybeDecode } from './charset';
import { fromBase64 } from './encodings';

/**
 * `=?charset?B?...?=` and `=?charset?Q?...?=` (RFC 2047 section 2), with the language of RFC 2231 section 5. Real mail
 * also has encoded words that touch other text and have blanks inside the Q form; both are read (common practice).
 */
const WORD = /=\?([^?*\s]+)(?:\*[^?\s]*)?\?([bq])\?([^?]*)\?=/gi;

interface Word {
  readonly start: number;
  readonly end: number;
  readonly charset: string;
  readonly bytes: Uint8Array;
}

/**
 * Decodes encoded words in an unfolded header value. White space between two adjacent encoded words is removed (section
 * 6.2).
 */
export function decodeWords(value: string): string {
  if (!value.includes('=?')) return value;
  const words = readWords(value);
  let decoded = '';
  let at = 0;
  // Whether a decoded word precedes the gap.
  let afterDecoded = false;
  for (let index = 0; index < words.length; index++) {
    const first = elementAt(words, index);
    // Adjacent words of one charset may split a character (forbidden by section 5, common practice), so their octets
    // are decoded together; in charsets with shift states, each word starts in the initial state.
    const run = [first.bytes];
    let last = first;
    const isWhole = /^iso-2022-/i.test(first.charset);
    for (let next = words[index + 1]; !isWhole && next && joins(value, last, next); next = words[index + 1]) {
      run.push(next.bytes);
      last = next;
      index++;
    }
    const text = maybeDecode(joinOctets(run), first.charset);
    const gap = value.slice(at, first.start);
    const between = afterDecoded && text !== null && /^[ \t]*$/.test(gap);
    afterDecoded = text !== null;
    decoded += between ? '' : gap;
    decoded += text ?? value.slice(first.start, last.end);
    at = last.end;
  }
  return decoded + value.slice(at);
}

/** The charsets named by encoded words in a value. */
export const charsetsIn = (value: string): string[] =>
  value.includes('=?') ? [...value.matchAll(WORD)].map(([, charset = '']) => charset) : [];

function readWords(value: string): Word[] {
  const words: Word[] = [];
  for (const found of value.matchAll(WORD)) {
    const [whole, charset = '', form = '', text = ''] = found;
    const bytes = form.toLowerCase() === 'b' ? fromBase64(octetsOf(text)) : fromQ(text);
    words.push({ start: found.index, end: found.index + whole.length, charset, bytes });
  }
  return words;
}

function joins(value: string, a: Word, b: Word): boolean {
  return a.charset.toLowerCase() === b.charset.toLowerCase() && /^[ \t]*$/.test(value.slice(a.end, b.start));
}

/** Characters above 255 are not base64, whatever their low octet. */
const octetsOf = (text: string): Uint8Array =>
  Uint8Array.from(text, (character) => Math.min(character.charCodeAt(0), 255));

/** "_" is a blank and =XX an octet (RFC 2047 section 4.2); malformed sequences are kept literally. */
function fromQ(text: string): Uint8Array {
  const octets: number[] = [];
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    const pair = text.slice(at + 1, at + 3);
    if (code === 61 && /^[0-9a-f]{2}$/i.test(pair)) {
      octets.push(Number.parseInt(pair, 16));
      at += 2;
    } else octets.push(code === 95 ? 32 : code & 0xff);
  }
  return Uint8Array.from(octets);
}
