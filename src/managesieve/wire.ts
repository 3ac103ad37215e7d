/**
 * What both sides of ManageSieve put on the wire (RFC 5804 section 4): lines of words, in which a string is quoted or a literal whose
 * octets are counted before it.
 */
export type Word =
  | { readonly kind: 'string'; readonly value: string }
  | { readonly kind: 'atom'; readonly value: string }
  | { readonly kind: 'list'; readonly items: readonly Word[] };

/** A line longer than this, literals aside, is no line of the protocol. */
const LONGEST_LINE = 64 * 1024;
/** No script is larger. */
const LARGEST_LITERAL = 16 * 1024 * 1024;
const DEEPEST = 10;

export class WireFault extends Error {}

/** Takes octets as they come and gives lines as words, each once it is whole. */
export class LineReader {
  #octets: Buffer = Buffer.alloc(0);

  add(octets: Uint8Array): void {
    this.#octets = this.#octets.length === 0 ? Buffer.from(octets) : Buffer.concat([this.#octets, octets]);
  }

  /** What was read beyond the last line, when the line is handed over to TLS; nothing may stand there (RFC 5804 section 2.2). */
  get rest(): number {
    return this.#octets.length;
  }

  /** The next line, or null where it is not whole yet. Throws for what is none. */
  next(): Word[] | null {
    const scanner = new Scanner(this.#octets);
    const words = scanner.line();
    if (words === null) return null;
    this.#octets = this.#octets.subarray(scanner.at);
    return words;
  }
}

/** Thrown where more octets are needed. */
const MORE = Symbol('more');

class Scanner {
  at = 0;
  #plain = 0;

  constructor(readonly octets: Buffer) {}

  line(): Word[] | null {
    try {
      const words = this.#words('\r', 0);
      if (this.#take() !== '\n') throw new WireFault('a line does not end as it must');
      return words;
    } catch (error) {
      if (error === MORE) {
        if (this.#plain > LONGEST_LINE) throw new WireFault('a line is too long');
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
    if (this.#plain > LONGEST_LINE) throw new WireFault('a line is too long');
    return String.fromCharCode(this.octets[this.at++] as number);
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
    if (octets > LARGEST_LITERAL) throw new WireFault('a literal is too large');
    if (this.at + octets > this.octets.length) throw MORE;
    const value = this.octets.subarray(this.at, this.at + octets).toString('utf8');
    this.at += octets;
    return value;
  }

  #atom(first: string): string {
    let atom = first;
    while (this.at < this.octets.length && !/[\s"(){}]/.test(String.fromCharCode(this.octets[this.at] as number))) {
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
