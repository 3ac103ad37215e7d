/** One word of a command (RFC 9051 section 9): an atom or string, or a list in parentheses. */
export type ImapWord = string | readonly ImapWord[];

const CRLF = '\r\n';
/** Octets of one command, with its literals. */
const LONGEST = 1024 * 1024;

/** Collects what a client sends; commands are split off once they are whole. */
export class CommandReader {
  #text = '';

  /** `proceed` is called where the client waits before it sends a literal. */
  constructor(readonly proceed: () => void) {}

  add(octets: Buffer): void {
    this.#text += octets.toString('latin1');
    if (this.#text.length > LONGEST) throw new Error('The command is too long.');
  }

  /** The next command as words; null until it is whole. */
  next(): ImapWord[] | null {
    const end = this.#end();
    if (end === null) return null;
    const line = this.#text.slice(0, end);
    this.#text = this.#text.slice(end + CRLF.length);
    this.#asked = 0;
    return wordsOf(line);
  }

  /** How far the client was told to go on. */
  #asked = 0;

  /** Where the command ends: a line that ends with a literal goes on behind it. */
  #end(): number | null {
    for (let from = 0; ; ) {
      const end = this.#text.indexOf(CRLF, from);
      if (end < 0) return null;
      const literal = /\{(\d+)(\+?)\}$/.exec(this.#text.slice(from, end));
      if (!literal) return end;
      if (literal[2] === '' && this.#asked <= end) {
        this.#asked = end + 1;
        this.proceed();
      }
      from = end + CRLF.length + Number(literal[1]);
      if (from > this.#text.length) return null;
    }
  }
}

/** The words of a whole command; throws if they cannot be read. */
export function wordsOf(line: string): ImapWord[] {
  let at = 0;
  const list = (isInner: boolean): ImapWord[] => {
    const words: ImapWord[] = [];
    for (;;) {
      while (line[at] === ' ') at++;
      const sign = line[at];
      if (sign === undefined || sign === ')') {
        if ((sign === ')') !== isInner) throw new Error('The parentheses do not match.');
        at++;
        return words;
      }
      if (sign === '(') {
        at++;
        words.push(list(true));
      } else words.push(word());
    }
  };
  const word = (): string => {
    const rest = line.slice(at);
    const literal = /^\{(\d+)\+?\}\r\n/.exec(rest);
    if (literal) {
      const start = at + literal[0].length;
      at = start + Number(literal[1]);
      return line.slice(start, at);
    }
    const quoted = /^"((?:[^"\\]|\\.)*)"/.exec(rest);
    if (quoted) {
      at += quoted[0].length;
      return (quoted[1] ?? '').replace(/\\(.)/g, '$1');
    }
    // Brackets, as of BODY.PEEK[], belong to the atom with all that is in them.
    const atom = /^[^\s()"[]*(\[[^\]]*\])?[^\s()"]*/.exec(rest)?.[0] ?? '';
    if (atom === '') throw new Error('The command cannot be read.');
    at += atom.length;
    return atom;
  };
  return list(false);
}

/** Whether a number is in a sequence set (RFC 9051 section 9) such as `1:4,7,9:*`. */
export function inSet(set: string, last: number): (number: number) => boolean {
  const bound = (text: string | undefined) => (text === '*' ? last : Number(text));
  const ranges = set.split(',').map((range) => {
    const [from, to = from] = range.split(':');
    const ends = [bound(from), bound(to)];
    return [Math.min(...ends), Math.max(...ends)] as const;
  });
  return (number) => ranges.some(([from, to]) => from <= number && number <= to);
}
