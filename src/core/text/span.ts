import { elementAt } from './lookup';
/** A half-open range of UTF-16 offsets into a source text. Line and column are computed only for display. */
export interface Span {
  readonly start: number;
  readonly end: number;
}

/** A position for people: line and column counted from 1, the column in code points. */
export interface Position {
  readonly line: number;
  readonly column: number;
}

/** Finds line and column of offsets; lines end at LF, so that CRLF text counts the same lines. */
export class LineIndex {
  readonly #starts: number[] = [0];
  /** The last position found: positions are mostly requested in order, and a line may be as long as the text. */
  #last = { start: 0, at: 0, column: 1 };

  constructor(readonly text: string) {
    for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) this.#starts.push(at + 1);
  }

  /** Offsets beyond the text count as its end. */
  position(offset: number): Position {
    const at = Math.max(0, Math.min(offset, this.text.length));
    let low = 0;
    let high = this.#starts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (elementAt(this.#starts, middle) <= at) low = middle;
      else high = middle - 1;
    }
    return { line: low + 1, column: this.#column(elementAt(this.#starts, low), at) };
  }

  #column(start: number, at: number): number {
    const last = this.#last.start === start && this.#last.at <= at ? this.#last : { start, at: start, column: 1 };
    let { column } = last;
    for (let next = last.at; next < at; column++) next += (this.text.codePointAt(next) ?? 0) > 0xffff ? 2 : 1;
    this.#last = { start, at, column };
    return column;
  }

  /** The offset where the line of `offset` starts. */
  lineStart(offset: number): number {
    return elementAt(this.#starts, this.position(offset).line - 1);
  }
}
