import { elementAt } from '../core/text/lookup';
/**
 * What both sides of ManageSieve put on the wire (RFC 5804 section 4): lines of words, in which a string is quoted or a literal whose
 * octets are counted before it.
 */
export type Word =
  | { readonly kind: 'string'; readonly value: string }
  | { readonly kind: 'atom'; readonly value: string }
  | { readonly kind: 'list'; readonly items: readonly Word[] };

/** What one line may take; in octets. */
export interface WireLimits {
  /** Of a line, its literals aside. */
  readonly line: number;
  /** Of a literal: no script is larger. */
  readonly literal: number;
}

export const WIRE_LIMITS: WireLimits = { line: 64 * 1024, literal: 16 * 1024 * 1024 };
const DEEPEST = 10;

export class WireFault extends Error {}

/** Takes octets as they come and gives lines as words, each once it is whole. */
export class LineReader {
  /** What is not read yet, as it came: it is joined once a line may be whole, and not for each octet that comes by itself. */
  #chunks: Buffer[] = [];
  #length = 0;
  /** Octets without which the next line is not whole. */
  #needed = 0;
  /** Whether a line end has come since the last look. */
  #ended = false;

  constructor(readonly limits: WireLimits = WIRE_LIMITS) {}

  add(octets: Uint8Array): void {
    this.#chunks.push(Buffer.from(octets));
    this.#length += octets.length;
    this.#ended ||= octets.includes(LF);
  }

  /** What was read beyond the last line, when the line is handed over to TLS; nothing may stand there (RFC 5804 section 2.2). */
  get rest(): number {
    return this.#length;
  }

  /** The next line, or null where it is not whole yet. Throws for what is none. */
  next(): Word[] | null {
    if (this.#length < this.#needed) return null;
    if (!this.#ended) {
      if (this.#length > this.#needed + this.limits.line) throw new WireFault('a line is too long');
      return null;
    }
    const octets = this.#chunks.length === 1 ? elementAt(this.#chunks, 0) : Buffer.concat(this.#chunks);
    const scanner = new Scanner(octets, this.limits);
    const words = scanner.line();
    const rest = words === null ? octets : octets.subarray(scanner.at);
    this.#chunks = rest.length === 0 ? [] : [rest];
    this.#length = rest.length;
    this.#needed = words === null ? scanner.needed : 0;
    // What was looked at without end is not looked at again before more has come.
    this.#ended = words !== null && rest.includes(LF);
    return words;
  }
}

const LF = 10;

/** Thrown where more octets are needed. */
const MORE = Symbol('more');

class Scanner {
  at = 0;
  /** Octets that must be there at the least before a line that is not whole is. */
  needed = 0;
  #plain = 0;

  constructor(
    readonly octets: Buffer,
    readonly limits: WireLimits,
  ) {}

  line(): Word[] | null {
    try {
      const words = this.#words('\r', 0);
      if (this.#take() !== '\n') throw new WireFault('a line does not end as it must');
      return words;
    } catch (error) {
      if (error === MORE) {
        if (this.#plain > this.limits.line) throw new WireFault('a line is too long');
        return null;
      }
      throw error;
    }
  }

  #words(end: string, depth: number): Word[] {
    if (depth > DEEPEST) throw new WireFault('lists are nested too deep');
    const words: Word[] = [];
    for (;;) {
      const character = this.#take();
      if (character === end) return words;
      if (character === ' ') continue;
      if (character === '(') words.push({ kind: 'list', items: this.#words(')', depth + 1) });
      else if (character === '"') words.push({ kind: 'string', value: this.#quoted() });
      else if (character === '{') words.push({ kind: 'string', value: this.#literal() });
      else if (/[\r\n)]/.test(character)) throw new WireFault('a line cannot be read');
      else words.push({ kind: 'atom', value: this.#atom(character) });
    }
  }

  #take(): string {
    if (this.at >= this.octets.length) throw MORE;
    this.#plain++;
    if (this.#plain > this.limits.line) throw new WireFault('a line is too long');
    return String.fromCharCode(elementAt(this.octets, this.at++));
  }

  #quoted(): string {
    const from = this.at;
    for (;;) {
      const character = this.#take();
      if (character === '\\') this.#take();
      else if (character === '"') break;
      else if (/[\r\n\0]/.test(character)) throw new WireFault('a quoted string is never closed');
    }
    return this.octets
      .subarray(from, this.at - 1)
      .toString('utf8')
      .replace(/\\(.)/gs, '$1');
  }

  #literal(): string {
    let digits = '';
    for (;;) {
      const character = this.#take();
      if (character === '}') break;
      // A plus sign says that the other side does not wait (RFC 5804 section 4).
      if (character === '+') continue;
      if (!/\d/.test(character) || digits.length > 9) throw new WireFault('the length of a literal cannot be read');
      digits += character;
    }
    if (this.#take() !== '\r' || this.#take() !== '\n') throw new WireFault('a literal does not begin as it must');
    const octets = Number(digits);
    if (octets > this.limits.literal) throw new WireFault('a literal is too large');
    this.needed = this.at + octets;
    if (this.needed > this.octets.length) throw MORE;
    const value = this.octets.subarray(this.at, this.at + octets).toString('utf8');
    this.at += octets;
    return value;
  }

  #atom(first: string): string {
    let atom = first;
    while (this.at < this.octets.length && !/[\s"(){}]/.test(String.fromCharCode(elementAt(this.octets, this.at)))) {
      atom += this.#take();
    }
    if (this.at >= this.octets.length) throw MORE;
    return atom;
  }
}

/** A string as it is sent: quoted where that is allowed (RFC 5804 section 4), else as a literal. `waits`: with a plus sign from a client. */
export function written(value: string, from: 'client' | 'server'): Buffer {
  const octets = Buffer.from(value, 'utf8');
  if (octets.length <= 200 && !/[\r\n\0]/.test(value))
    return Buffer.from(`"${value.replace(/[\\"]/g, '\\$&')}"`, 'utf8');
  return Buffer.concat([Buffer.from(`{${octets.length}${from === 'client' ? '+' : ''}}\r\n`), octets]);
}
