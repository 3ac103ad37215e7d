import type { Span } from '../text/span';
import { type Diagnostic, diagnostic } from './diagnostics';
import type { Comment } from './tree';

/** What a token is; the marks `( ) [ ] { } , ;` stand for themselves. */
export const TOKEN = {
  end: 0,
  identifier: 1,
  tag: 2,
  number: 3,
  quoted: 4,
  /** A quoted string with a backslash in it. */
  escaped: 5,
  multiline: 6,
  invalid: 7,
  '(': 8,
  ')': 9,
  '[': 10,
  ']': 11,
  '{': 12,
  '}': 13,
  ',': 14,
  ';': 15,
} as const;

export type TokenKind = (typeof TOKEN)[keyof typeof TOKEN];

/**
 * The tokens of a script, kept as numbers: what a token holds is read from the text when it is asked for, so that a large
 * script does not become millions of objects. Comments, which may stand between any two tokens, are a list of their own.
 */
export class TokenList {
  #kinds: Uint8Array;
  #starts: Int32Array;
  #ends: Int32Array;
  #count = 0;
  readonly #names = new WordCache((written) => written.toLowerCase());
  readonly #words = new WordCache((written) => written);
  readonly #escaped = new WordCache(unescaped);
  readonly #comments: Comment[] = [];
  /** For each comment, the token that follows it. */
  readonly #followers: number[] = [];

  constructor(readonly source: string) {
    const room = Math.max(16, source.length >> 2);
    this.#kinds = new Uint8Array(room);
    this.#starts = new Int32Array(room);
    this.#ends = new Int32Array(room);
  }

  add(kind: TokenKind, start: number, end: number): void {
    if (this.#count === this.#kinds.length) this.#grow();
    this.#kinds[this.#count] = kind;
    this.#starts[this.#count] = start;
    this.#ends[this.#count] = end;
    this.#count++;
  }

  addComment(comment: Comment): void {
    this.#comments.push(comment);
    this.#followers.push(this.#count);
  }

  /** In the order of the text. */
  get comments(): readonly Comment[] {
    return this.#comments;
  }

  /** The index of the token that follows a comment. */
  follower(comment: number): number {
    return this.#followers[comment] as number;
  }

  /** The last token is `end`. */
  get count(): number {
    return this.#count;
  }

  kind(index: number): TokenKind {
    return this.#kinds[index] as TokenKind;
  }

  start(index: number): number {
    return this.#starts[index] as number;
  }

  end(index: number): number {
    return this.#ends[index] as number;
  }

  span(index: number): Span {
    return { start: this.start(index), end: this.end(index) };
  }

  text(index: number): string {
    return this.source.slice(this.start(index), this.end(index));
  }

  /** Identifiers and tags are caseless (RFC 5228 section 2.1); a tag is named without its colon. */
  name(index: number): string {
    const from = this.start(index) + (this.kind(index) === TOKEN.tag ? 1 : 0);
    return this.#names.read(this.source, from, this.end(index));
  }

  number(index: number): { readonly value: number; readonly quantifier: 'K' | 'M' | 'G' | null } {
    return readNumber(this.text(index)) ?? { value: 0, quantifier: null };
  }

  /** The value of a string: escapes, dot-stuffing and line ends resolved (RFC 5228 section 2.4.2). */
  value(index: number): string {
    const kind = this.kind(index);
    if (kind === TOKEN.multiline) return multilineValue(this.text(index));
    const start = this.start(index) + 1;
    const end = this.end(index) - 1;
    if (kind === TOKEN.escaped) return this.#escaped.read(this.source, start, end);
    return end - start <= SHORT ? this.#words.read(this.source, start, end) : this.source.slice(start, end);
  }

  #grow(): void {
    const room = this.#count * 2;
    const [kinds, starts, ends] = [new Uint8Array(room), new Int32Array(room), new Int32Array(room)];
    kinds.set(this.#kinds);
    starts.set(this.#starts);
    ends.set(this.#ends);
    this.#kinds = kinds;
    this.#starts = starts;
    this.#ends = ends;
  }
}

/** Strings up to this length are looked up: V8 copies them when it cuts them out. */
const SHORT = 12;

/** Scripts say the same few words over and over: each is read once, and found again by its characters. */
class WordCache {
  readonly #written: (string | undefined)[] = new Array(CACHED).fill(undefined);
  readonly #read: string[] = new Array(CACHED).fill('');

  constructor(readonly meaning: (written: string) => string) {}

  /** What the words from `start` to `end` mean. */
  read(source: string, start: number, end: number): string {
    let hash = end - start;
    for (let at = start; at < end; at++) hash = (Math.imul(hash, 31) + source.charCodeAt(at)) | 0;
    const slot = (hash ^ (hash >>> 9)) & (CACHED - 1);
    const known = this.#written[slot];
    if (known !== undefined && known.length === end - start && source.startsWith(known, start)) {
      return this.#read[slot] as string;
    }
    const written = source.slice(start, end);
    const read = this.meaning(written);
    this.#written[slot] = written;
    this.#read[slot] = read;
    return read;
  }
}

/** A power of two. */
const CACHED = 512;

/** A backslash makes the character behind it stand for itself (RFC 5228 section 2.4.2). */
function unescaped(text: string): string {
  let value = '';
  let from = 0;
  for (let at = text.indexOf('\\'); at >= 0; at = text.indexOf('\\', from + 1)) {
    value += text.slice(from, at);
    from = at + 1;
  }
  return value + text.slice(from);
}

export interface Tokens {
  readonly tokens: TokenList;
  readonly diagnostics: readonly Diagnostic[];
}

const OTHER = 0;
const BLANK = 1;
const LETTER = 2;
const DIGIT = 4;
const MARK = 8;
/** What an identifier goes on with. */
const WORD = LETTER | DIGIT;
/** What may begin with each character of US-ASCII. */
const CLASS = new Uint8Array(128);
for (const character of ' \t\r\n') CLASS[character.charCodeAt(0)] = BLANK;
for (let code = 48; code <= 57; code++) CLASS[code] = DIGIT;
for (let code = 65; code <= 90; code++) CLASS[code] = CLASS[code + 32] = LETTER;
CLASS[95] = LETTER;
/** The kind of each mark by its code. */
const MARKS = new Uint8Array(128);
for (const mark of ['(', ')', '[', ']', '{', '}', ',', ';'] as const) {
  CLASS[mark.charCodeAt(0)] = MARK;
  MARKS[mark.charCodeAt(0)] = TOKEN[mark];
}

const classOf = (code: number): number => (code < 128 ? (CLASS[code] as number) : OTHER);
const isWord = (code: number): boolean => code < 128 && ((CLASS[code] as number) & WORD) !== 0;

const TEXT_OPENING = /:[ \t]*(#[^\n]*)?\r?\n/y;
const MULTIPLIER = { K: 1024, M: 1024 ** 2, G: 1024 ** 3 };

/** Splits a script into tokens by RFC 5228 section 8.1. LF alone is taken as a line end beside CRLF (common practice). */
export function tokenize(source: string): Tokens {
  const tokens = new TokenList(source);
  const diagnostics: Diagnostic[] = [];
  const mayHoldNul = source.includes('\0');
  /** From here on no line with a single dot was found, so that no text that begins later is closed either. */
  let unclosedFrom = Number.POSITIVE_INFINITY;
  const { length } = source;
  /** The first backslash from the string read last on: most strings hold none. */
  let nextBackslash = -1;

  let at = 0;
  while (at < length) {
    const code = source.charCodeAt(at);
    // Blanks and words are most of a script: they are told first, and no function is called for their characters.
    if (code === 32 || code === 10) {
      at++;
      continue;
    }
    switch (classOf(code)) {
      case BLANK:
        at++;
        break;
      case MARK:
        tokens.add(MARKS[code] as TokenKind, at, at + 1);
        at++;
        break;
      case LETTER: {
        const start = at;
        do at++;
        while (at < length && isWord(source.charCodeAt(at)));
        at = word(start, at);
        break;
      }
      case DIGIT:
        at = number(at);
        break;
      default:
        at = code === 34 ? quoted(at) : other(at, code);
    }
  }
  tokens.add(TOKEN.end, length, length);
  return { tokens, diagnostics };

  function wordEnd(from: number): number {
    let end = from;
    while (end < length && isWord(source.charCodeAt(end))) end++;
    return end;
  }

  function word(start: number, end: number): number {
    // text:
    //     ^ only with the colon right behind it
    if (end - start === 4 && source[end] === ':' && source.slice(start, end).toLowerCase() === 'text') {
      return multiline(start);
    }
    tokens.add(TOKEN.identifier, start, end);
    return end;
  }

  function number(start: number): number {
    const end = wordEnd(start);
    const found = source.slice(start, end);
    const read = readNumber(found);
    if (read && Number.isSafeInteger(read.value)) tokens.add(TOKEN.number, start, end);
    else fault(read ? 'number-too-large' : 'bad-number', start, end, end, { found });
    return end;
  }

  function other(start: number, code: number): number {
    if (code === 35) return hashComment(start);
    if (code === 47 && source[start + 1] === '*') return bracketComment(start);
    if (code === 58 && classOf(source.charCodeAt(start + 1)) === LETTER) {
      const end = wordEnd(start + 1);
      tokens.add(TOKEN.tag, start, end);
      return end;
    }
    return unexpected(start);
  }

  // "a \"b\" c"
  //  ^ any character may follow a backslash and stands for itself (RFC 5228 section 2.4.2)
  function quoted(start: number): number {
    let close = source.indexOf('"', start + 1);
    if (nextBackslash <= start) nextBackslash = indexOrEnd('\\', start);
    const kind = nextBackslash < close ? TOKEN.escaped : TOKEN.quoted;
    while (close >= 0 && backslashesBefore(close, start) % 2 === 1) close = source.indexOf('"', close + 1);
    if (close < 0) {
      // Only the line is given up, so that what follows can still be read.
      const end = endOfLine(start);
      fault('unclosed-string', start, start + 1, end);
      return end;
    }
    tokens.add(kind, start, close + 1);
    noteNul(start, close);
    return close + 1;
  }

  function backslashesBefore(place: number, start: number): number {
    let count = 0;
    while (place - 1 - count > start && source.charCodeAt(place - 1 - count) === 92) count++;
    return count;
  }

  // text: # comment
  // ..a line that begins with a dot
  // .
  function multiline(start: number): number {
    TEXT_OPENING.lastIndex = start + 4;
    const opening = TEXT_OPENING.exec(source);
    if (!opening) {
      const end = endOfLine(start);
      fault('text-same-line', start, start + 5, end);
      return end;
    }
    for (let from = start + 4 + opening[0].length; from < length && start < unclosedFrom; ) {
      const end = endOfLine(from);
      if (source[from] === '.' && /^\.\r?\n?$/.test(source.slice(from, end))) {
        tokens.add(TOKEN.multiline, start, from + 1);
        noteNul(start, from);
        return from + 1;
      }
      from = end;
    }
    unclosedFrom = Math.min(unclosedFrom, start);
    const end = endOfLine(start);
    fault('unclosed-text', start, start + 5, end);
    return end;
  }

  function hashComment(start: number): number {
    let end = endOfLine(start);
    while (end > start && (source[end - 1] === '\n' || source[end - 1] === '\r')) end--;
    let from = start;
    while (from < end && source.charCodeAt(from) === 35) from++;
    tokens.addComment({ form: 'hash', text: source.slice(from, end).trim(), start, end });
    noteNul(start, end);
    return end;
  }

  function bracketComment(start: number): number {
    const close = source.indexOf('*/', start + 2);
    if (close < 0) {
      fault('unclosed-comment', start, start + 2, length);
      return length;
    }
    const text = source.slice(start + 2, close).trim();
    tokens.addComment({ form: 'bracket', text, start, end: close + 2 });
    noteNul(start, close);
    return close + 2;
  }

  function unexpected(start: number): number {
    const character = String.fromCodePoint(source.codePointAt(start) as number);
    const end = start + character.length;
    const visible = character > ' ' ? `"${character}"` : `the character U+${hex(character)}`;
    fault(character === '\0' ? 'nul-character' : 'unexpected-character', start, end, end, { found: visible });
    return end;
  }

  function fault(code: Diagnostic['code'], start: number, end: number, upTo: number, details = {}): void {
    diagnostics.push(diagnostic(code, { start, end }, details));
    tokens.add(TOKEN.invalid, start, upTo);
  }

  function noteNul(start: number, end: number): void {
    if (!mayHoldNul) return;
    const place = source.indexOf('\0', start);
    if (place >= 0 && place < end) diagnostics.push(diagnostic('nul-character', { start, end: start + 1 }));
  }

  function endOfLine(from: number): number {
    return Math.min(length, indexOrEnd('\n', from) + 1);
  }

  function indexOrEnd(character: string, from: number): number {
    const place = source.indexOf(character, from);
    return place < 0 ? length : place;
  }
}

function readNumber(found: string): { value: number; quantifier: 'K' | 'M' | 'G' | null } | null {
  const parts = /^([0-9]+)([KMGkmg]?)$/.exec(found);
  if (!parts) return null;
  const quantifier = (parts[2] as string).toUpperCase() as 'K' | 'M' | 'G' | '';
  return { value: Number(parts[1]) * (quantifier ? MULTIPLIER[quantifier] : 1), quantifier: quantifier || null };
}

/** The lines between the opening and the dot, each ended by CRLF. */
function multilineValue(text: string): string {
  const body = text.slice(text.indexOf('\n') + 1, -1).replace(/\r\n/g, '\n');
  return body.replace(/^\./gm, '').replace(/\n/g, '\r\n');
}

function hex(character: string): string {
  return (character.codePointAt(0) as number).toString(16).toUpperCase().padStart(4, '0');
}
