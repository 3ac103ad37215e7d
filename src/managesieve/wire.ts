import { elementAt } from '../core/text/lookup';
/**
 * The wire format of ManageSieve (RFC 5804 section 4): lines of words, where a string is quoted, or a literal preceded
 * by its length in octets.
 */
export type Word =
  | { readonly kind: 'string'; readonly value: string }
  | { readonly kind: 'atom'; readonly value: string }
  | { readonly kind: 'list'; readonly items: readonly Word[] };

/** Limits on one line, in octets. */
export interface WireLimits {
  /** Of a line without its literals. */
  readonly line: number;
  /** Of a literal: no script is larger. */
  readonly literal: number;
}

export const WIRE_LIMITS: WireLimits = { line: 64 * 1024, literal: 16 * 1024 * 1024 };
const DEEPEST = 10;

export class WireFault extends Error {}

/** Collects octets and returns each complete line as words. */
export class LineReader {
  /** Chunks not parsed yet. They are joined only when a line may be complete, not for every chunk. */
  #chunks: Buffer[] = [];
  #length = 0;
  /** Octets needed before the next line can be complete. */
  #needed = 0;
  /** Whether a line end has arrived since the last attempt. */
  #ended = false;

  constructor(readonly limits: WireLimits = WIRE_LIMITS) {}

  add(octets: Uint8Array): void {
    this.#chunks.push(Buffer.from(octets));
    this.#length += octets.length;
    this.#ended ||= octets.includes(LF);
  }

  /** Octets beyond the last line when the connection is handed to TLS; there must be none (RFC 5804 section 2.2). */
  get rest(): number {
    return this.#length;
  }

  /** The next line, or null if it is not complete yet. Throws for malformed input. */
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
    // An incomplete line is not parsed again before more octets have arrived.
    this.#ended = words !== null && rest.includes(LF);
    return words;
  }
}

const LF = 10;

/** Thrown when more octets are needed. */
const MORE = Symbol('more');

class Scanner {
  at = 0;
  /** The least number of octets that an incomplete line still needs. */
  needed = 0;
  #plain = 0;

  constructor(
    readonly octets: Buffer,
    readonly limits: WireLimits,
  ) {}

  line(): Word[] | null {
    try {
      const words = this.#words('\r', 0);
      if (this.#take() !== '\n') throw new WireFault('a line does not end with CR LF');
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
      // A plus sign means that the sender does not wait (RFC 5804 section 4).
      if (character === '+') continue;
      if (!/\d/.test(character) || digits.length > 9) throw new WireFault('the length of a literal is not a number');
      digits += character;
    }
    if (this.#take() !== '\r' || this.#take() !== '\n') throw new WireFault('a literal does not start correctly');
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

/**
 * Encodes a string: quoted where allowed (RFC 5804 section 4), else as a literal. `waits`: a literal from a client has
 * a plus sign.
 */
export function written(value: string, from: 'client' | 'server'): Buffer {
  const octets = Buffer.from(value, 'utf8');
  if (octets.length <= 200 && !/[\r\n\0]/.test(value))
    return Buffer.from(`"${value.replace(/[\\"]/g, '\\$&')}"`, 'utf8');
  return Buffer.concat([Buffer.from(`{${octets.length}${from === 'client' ? '+' : ''}}\r\n`), octets]);
}
