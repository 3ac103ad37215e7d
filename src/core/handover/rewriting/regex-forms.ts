import { elementAt } from '../../text/lookup';

/** More patterns than this are unreadable. */
const MOST_FORMS = 60;
const MOST_MEMBERS = 12;

/** A piece of a pattern: a character, or one of the names below. */
type Piece = string;

/**
 * Patterns of `:matches` (RFC 5228 section 2.7.1) that match exactly the texts an extended regular expression matches;
 * null if there are none: for large classes, repetitions of longer parts, anchors in the middle.
 */
export function expandedRegex(source: string): string[] | null {
  const reader = new Reader(source);
  const sequences = reader.alternatives();
  if (!sequences || !reader.isAtEnd || sequences.length > MOST_FORMS) return null;
  const forms = sequences.map(formOf);
  return forms.some((form) => form === null) ? null : forms.flatMap((form) => form ?? []);
}

/** Unanchored ends may be surrounded by anything. */
function formOf(sequence: readonly Piece[]): string | null {
  const from = sequence[0] === START ? 1 : 0;
  const to = sequence.at(-1) === END ? sequence.length - 1 : sequence.length;
  const inner = sequence.slice(from, to);
  if (inner.includes(START) || inner.includes(END)) return null;
  const pieces: Piece[] = [...(from === 1 ? [] : [ALL]), ...inner, ...(to < sequence.length ? [] : [ALL])];
  // Any text twice over is any text.
  const once = pieces.filter((piece, at) => piece !== ALL || pieces[at - 1] !== ALL);
  return once.map(written).join('');
}

function written(piece: Piece): string {
  if (piece === ANY) return '?';
  if (piece === ALL) return '*';
  return /[\\*?]/.test(piece) ? `\\${piece}` : piece;
}

// Longer than any character.
const START = 'start';
const END = 'end';
const ANY = 'any character';
const ALL = 'any text';

type Sequence = readonly Piece[];

/** Expands an expression into all sequences of pieces it stands for. */
class Reader {
  #at = 0;

  constructor(readonly source: string) {}

  get isAtEnd(): boolean {
    return this.#at >= this.source.length;
  }

  alternatives(): Sequence[] | null {
    const all: Sequence[] = [];
    for (;;) {
      const sequences = this.#sequence();
      if (!sequences) return null;
      all.push(...sequences);
      if (all.length > MOST_FORMS) return null;
      if (this.source[this.#at] !== '|') return all;
      this.#at++;
    }
  }

  #sequence(): Sequence[] | null {
    let all: Sequence[] = [[]];
    while (!this.isAtEnd && !'|)'.includes(elementAt(this.source, this.#at))) {
      const next = this.#repeated();
      if (!next) return null;
      all = all.flatMap((before) => next.map((after) => [...before, ...after]));
      if (all.length > MOST_FORMS) return null;
    }
    return all;
  }

  #repeated(): Sequence[] | null {
    const atom = this.#atom();
    if (!atom) return null;
    const mark = this.source[this.#at];
    if (mark === '?') {
      this.#at++;
      return this.#isRepeatedAgain() ? null : [[], ...atom];
    }
    if (mark === '*' || mark === '+') {
      this.#at++;
      // Any text is the only repetition that a pattern can express.
      const any = atom.length === 1 && atom[0]?.length === 1 && atom[0][0] === ANY;
      if (!any || this.#isRepeatedAgain()) return null;
      return [mark === '*' ? [ALL] : [ANY, ALL]];
    }
    if (mark === '{') return null;
    return atom;
  }

  #isRepeatedAgain(): boolean {
    return '*+?{'.includes(this.source[this.#at] ?? '\n');
  }

  #atom(): Sequence[] | null {
    const character = elementAt(this.source, this.#at++);
    switch (character) {
      case '(': {
        const inner = this.alternatives();
        return this.source[this.#at++] === ')' ? inner : null;
      }
      case '[':
        return this.#members();
      case '.':
        return [[ANY]];
      case '^':
        return [[START]];
      case '$':
        return [[END]];
      case '\\': {
        const escaped = this.source[this.#at++];
        return escaped === undefined || /[A-Za-z0-9]/.test(escaped) ? null : [[escaped]];
      }
      case '*':
      case '+':
      case '?':
      case '{':
        return null;
      default: {
        // Characters beyond the basic plane are two UTF-16 units, but one character for patterns.
        const code = character.charCodeAt(0);
        return code >= 0xd800 && code <= 0xdfff ? null : [[character]];
      }
    }
  }

  /** A few plain characters; ranges, classes and negations are too many. */
  #members(): Sequence[] | null {
    const close = this.source.indexOf(']', this.#at + 1);
    const inside = this.source.slice(this.#at, close);
    if (close < 0 || /^\^|[[\\]|.-./.test(inside) || inside.length > MOST_MEMBERS) return null;
    this.#at = close + 1;
    return Array.from(inside, (member) => [member]);
  }
}
