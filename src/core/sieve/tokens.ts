import { keysOf, memberOf } from '../text/lookup';
import type { Span } from '../text/span';
import { type Diagnostic, diagnostic } from './diagnostics';
import type { Comment } from './tree';

/** The kind of a token; the marks `( ) [ ] { } , ;` are their own kinds. */
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

/** The position of a token, for going back to it. */
export interface TokenPlace {
  readonly start: number;
  /** The end of the previous token. */
  readonly before: number;
}

/**
 * Reads a script token by token by RFC 5228 section 8.1; LF alone counts as a line end like CRLF (common practice).
 * Only the current token is kept, so that a large script does not become millions of objects. Comments, which may be
 * between any two tokens, and faults are collected once, even if a part is read again.
 */
export class Lexer {
  /** The first call of `next` reads the first token. */
  kind: TokenKind = TOKEN.end;
  start = 0;
  end = 0;
  /** The end of the token before the current one; 0 for the first. */
  before = 0;
  /** Of the current identifier or tag, which are caseless (RFC 5228 section 2.1); without the colon of a tag. */
  name = '';
  readonly diagnostics: Diagnostic[] = [];
  /** Comments before the current token, in text order; after going back, later ones too. */
  readonly comments: Comment[] = [];
  /** For each comment, the start of the token after it. */
  readonly followers: number[] = [];
  /** Comments and faults are known up to here. */
  #known = 0;
  readonly #mayHoldNul: boolean;
  /** No line with a single dot was found from here on, so no later text is closed either. */
  #unclosedFrom = Number.POSITIVE_INFINITY;
  /** The first backslash after the last string: most strings contain none. */
  #nextBackslash = -1;
  readonly #names = new WordCache((written) => written.toLowerCase());
  readonly #words = new WordCache((written) => written);
  readonly #escaped = new WordCache(unescaped);

  constructor(readonly source: string) {
    this.#mayHoldNul = source.includes('\0');
  }

  /** Advances to the next token; stays at the end. */
  next(): void {
    this.before = this.end;
    this.#read();
    if (this.end > this.#known) this.#known = this.end;
    for (let last = this.comments.length; this.followers.length < last; ) this.followers.push(this.start);
  }

  get place(): TokenPlace {
    return { start: this.start, before: this.before };
  }

  /** Reads again from a token on. */
  goTo({ start, before }: TokenPlace): void {
    this.#nextBackslash = -1;
    this.end = start;
    this.next();
    this.before = before;
  }

  get span(): Span {
    return { start: this.start, end: this.end };
  }

  get text(): string {
    return this.source.slice(this.start, this.end);
  }

  /** Of the current number. */
  number(): { readonly value: number; readonly quantifier: 'K' | 'M' | 'G' | null } {
    return readNumber(this.text) ?? { value: 0, quantifier: null };
  }

  /** Of the current string: escapes, dot-stuffing and line ends resolved (RFC 5228 section 2.4.2). */
  value(): string {
    if (this.kind === TOKEN.multiline) return multilineValue(this.text);
    const start = this.start + 1;
    const end = this.end - 1;
    if (this.kind === TOKEN.escaped) return this.#escaped.read(this.source, start, end);
    return end - start <= SHORT ? this.#words.read(this.source, start, end) : this.source.slice(start, end);
  }

  #read(): void {
    const { source } = this;
    const { length } = source;
    let at = this.end;
    while (at < length) {
      const code = source.charCodeAt(at);
      // Spaces and words are most of a script: they are handled first, without a function call for each character.
      if (code === 32 || code === 10) {
        at++;
        continue;
      }
      switch (classOf(code)) {
        case BLANK:
          at++;
          continue;
        case MARK:
          this.#take(MARKS[code] ?? TOKEN.end, at, at + 1);
          return;
        case LETTER:
          this.#word(at, at);
          return;
        case DIGIT:
          this.#number(at);
          return;
      }
      if (code === 34) {
        this.#quoted(at);
        return;
      }
      if (code === 58 && classOf(source.charCodeAt(at + 1)) === LETTER) {
        this.#word(at, at + 1);
        return;
      }
      const hash = code === 35;
      const close = hash || !source.startsWith('/*', at) ? -1 : source.indexOf('*/', at + 2);
      if (hash) at = this.#hashComment(at);
      else if (close >= 0) at = this.#bracketComment(at, close);
      else {
        this.#unexpected(at);
        return;
      }
    }
    this.#take(TOKEN.end, length, length);
  }

  #take(kind: TokenKind, start: number, end: number): void {
    this.kind = kind;
    this.start = start;
    this.end = end;
  }

  /** An identifier, or a tag, which has a colon before its word. */
  #word(start: number, from: number): void {
    const { source } = this;
    let at = from;
    let hash = 0;
    for (let code = source.charCodeAt(at); isWord(code); code = source.charCodeAt(++at)) hash = hashed(hash, code);
    this.name = this.#names.find(source, from, at, hash);
    // text:
    //     ^ only with the colon right behind it
    if (this.name === 'text' && from === start && source.charCodeAt(at) === 58) this.#multiline(start);
    else this.#take(from === start ? TOKEN.identifier : TOKEN.tag, start, at);
  }

  #number(start: number): void {
    let end = start;
    while (isWord(this.source.charCodeAt(end))) end++;
    const found = this.source.slice(start, end);
    const read = readNumber(found);
    if (read && Number.isSafeInteger(read.value)) this.#take(TOKEN.number, start, end);
    else this.#fault(read ? 'number-too-large' : 'bad-number', start, end, end, { found });
  }

  // "a \"b\" c"
  //  ^ any character may follow a backslash and stands for itself (RFC 5228 section 2.4.2)
  #quoted(start: number): void {
    const { source } = this;
    let close = source.indexOf('"', start + 1);
    if (this.#nextBackslash <= start) this.#nextBackslash = this.#indexOrEnd('\\', start);
    const kind = this.#nextBackslash < close ? TOKEN.escaped : TOKEN.quoted;
    while (close >= 0 && this.#backslashesBefore(close, start) % 2 === 1) close = source.indexOf('"', close + 1);
    // An unclosed string only consumes its line, so that the rest can still be read.
    if (close < 0) this.#fault('unclosed-string', start, start + 1, this.#endOfLine(start));
    else {
      this.#noteNul(start, close);
      this.#take(kind, start, close + 1);
    }
  }

  #backslashesBefore(place: number, start: number): number {
    let count = 0;
    while (place - 1 - count > start && this.source.charCodeAt(place - 1 - count) === 92) count++;
    return count;
  }

  // text: # comment
  // ..a line that begins with a dot
  // .
  #multiline(start: number): void {
    TEXT_OPENING.lastIndex = start + 4;
    const opening = TEXT_OPENING.exec(this.source);
    if (!opening) {
      this.#fault('text-same-line', start, start + 5, this.#endOfLine(start));
      return;
    }
    const dot = start < this.#unclosedFrom ? this.#maybeClosingDot(start + 4 + opening[0].length) : null;
    if (dot === null) {
      this.#unclosedFrom = Math.min(this.#unclosedFrom, start);
      this.#fault('unclosed-text', start, start + 5, this.#endOfLine(start));
    } else {
      this.#noteNul(start, dot);
      this.#take(TOKEN.multiline, start, dot + 1);
    }
  }

  #maybeClosingDot(firstLine: number): number | null {
    const { source } = this;
    for (let from = firstLine; from < source.length; ) {
      const end = this.#endOfLine(from);
      if (source[from] === '.' && /^\.\r?\n?$/.test(source.slice(from, end))) return from;
      from = end;
    }
    return null;
  }

  /** Returns its end. */
  #hashComment(start: number): number {
    const { source } = this;
    let end = this.#endOfLine(start);
    while (end > start && (source[end - 1] === '\n' || source[end - 1] === '\r')) end--;
    let from = start;
    while (from < end && source.charCodeAt(from) === 35) from++;
    this.#comment({ form: 'hash', text: source.slice(from, end).trim(), start, end });
    return end;
  }

  #bracketComment(start: number, close: number): number {
    this.#comment({ form: 'bracket', text: this.source.slice(start + 2, close).trim(), start, end: close + 2 });
    return close + 2;
  }

  #comment(comment: Comment): void {
    if (comment.start < this.#known) return;
    this.comments.push(comment);
    this.#noteNul(comment.start, comment.end);
  }

  #unexpected(start: number): void {
    if (this.source.startsWith('/*', start)) {
      this.#fault('unclosed-comment', start, start + 2, this.source.length);
      return;
    }
    const character = String.fromCodePoint(this.source.codePointAt(start) ?? 0);
    const end = start + character.length;
    const visible = character > ' ' ? `"${character}"` : `the character U+${hex(character)}`;
    this.#fault(character === '\0' ? 'nul-character' : 'unexpected-character', start, end, end, { found: visible });
  }

  #fault(code: Diagnostic['code'], start: number, end: number, upTo: number, details = {}): void {
    if (start >= this.#known) this.diagnostics.push(diagnostic(code, { start, end }, details));
    this.#take(TOKEN.invalid, start, upTo);
  }

  #noteNul(start: number, end: number): void {
    if (!this.#mayHoldNul || start < this.#known) return;
    const place = this.source.indexOf('\0', start);
    if (place >= 0 && place < end) this.diagnostics.push(diagnostic('nul-character', { start, end: start + 1 }));
  }

  #endOfLine(from: number): number {
    return Math.min(this.source.length, this.#indexOrEnd('\n', from) + 1);
  }

  #indexOrEnd(character: string, from: number): number {
    const place = this.source.indexOf(character, from);
    return place < 0 ? this.source.length : place;
  }
}

/** Strings up to this length are interned: V8 copies them when they are cut out. */
const SHORT = 12;

/** Scripts repeat a few words: each is cut out once, and found again by its characters. */
class WordCache {
  readonly #written: (string | undefined)[] = new Array(CACHED).fill(undefined);
  readonly #read: string[] = new Array(CACHED).fill('');

  constructor(readonly meaning: (written: string) => string) {}

  /** The meaning of the word from `start` to `end`. */
  read(source: string, start: number, end: number): string {
    let hash = 0;
    for (let at = start; at < end; at++) hash = hashed(hash, source.charCodeAt(at));
    return this.find(source, start, end, hash);
  }

  /** The same, for characters already hashed. */
  find(source: string, start: number, end: number, hash: number): string {
    const slot = (hash ^ (hash >>> 9)) & (CACHED - 1);
    const known = this.#written[slot];
    if (known !== undefined && known.length === end - start && source.startsWith(known, start)) {
      return this.#read[slot] ?? '';
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

const hashed = (hash: number, code: number): number => (Math.imul(hash, 31) + code) | 0;

/** A backslash makes the next character literal (RFC 5228 section 2.4.2). */
function unescaped(text: string): string {
  let value = '';
  let from = 0;
  for (let at = text.indexOf('\\'); at >= 0; at = text.indexOf('\\', from + 1)) {
    value += text.slice(from, at);
    from = at + 1;
  }
  return value + text.slice(from);
}

const OTHER = 0;
const BLANK = 1;
const LETTER = 2;
const DIGIT = 4;
const MARK = 8;
/** Characters that continue an identifier. */
const WORD = LETTER | DIGIT;
/** What each US-ASCII character can start. */
const CLASS = new Uint8Array(128);
for (const character of ' \t\r\n') CLASS[character.charCodeAt(0)] = BLANK;
for (let code = 48; code <= 57; code++) CLASS[code] = DIGIT;
for (let code = 65; code <= 90; code++) CLASS[code] = CLASS[code + 32] = LETTER;
CLASS[95] = LETTER;
/** The kind of each mark by its code. */
const MARKS = new Array<TokenKind>(128).fill(TOKEN.end);
for (const mark of ['(', ')', '[', ']', '{', '}', ',', ';'] as const) {
  CLASS[mark.charCodeAt(0)] = MARK;
  MARKS[mark.charCodeAt(0)] = TOKEN[mark];
}

const classOf = (code: number): number => (code < 128 ? (CLASS[code] ?? OTHER) : OTHER);
/** `NaN`, the code beyond the end of a text, is none. */
const isWord = (code: number): boolean => code < 128 && ((CLASS[code] ?? OTHER) & WORD) !== 0;

const TEXT_OPENING = /:[ \t]*(#[^\n]*)?\r?\n/y;
const MULTIPLIER = { K: 1024, M: 1024 ** 2, G: 1024 ** 3 };

/** A number multiplied by its quantifier (RFC 5228 section 2.4.1); null if it is not one. */
export function readNumber(found: string): { value: number; quantifier: keyof typeof MULTIPLIER | null } | null {
  const parts = /^([0-9]+)([KMG]?)$/i.exec(found);
  if (!parts) return null;
  const quantifier = memberOf(keysOf(MULTIPLIER), parts[2]?.toUpperCase());
  return { value: Number(parts[1]) * (quantifier ? MULTIPLIER[quantifier] : 1), quantifier };
}

/** The lines between the opening and the dot, each ended by CRLF. */
function multilineValue(text: string): string {
  const body = text.slice(text.indexOf('\n') + 1, -1).replace(/\r\n/g, '\n');
  return body.replace(/^\./gm, '').replace(/\n/g, '\r\n');
}

function hex(character: string): string {
  return (character.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, '0');
}
