import { type Automaton, DEAD, TOP } from './language';

/** What comes before, or after, the first separator of a text; without a separator the whole text, or nothing. */
export type Side = 'before' | 'after';

/** Texts of which the part on one side of a separator matches an automaton, as :user and :detail read a local part. */
export class PartLanguage implements Automaton {
  readonly letters: ReadonlySet<string>;
  readonly start: number;
  readonly family = null;

  constructor(
    readonly inner: Automaton,
    readonly side: Side,
    readonly separator: string,
  ) {
    this.letters = new Set([...inner.letters, separator]);
    this.start = side === 'before' ? this.#pack(inner.start, 0) : WAITING;
  }

  accepting(state: number): boolean {
    if (state === TOP) return true;
    return state > WAITING && this.inner.accepting((state - FIRST) >> 1);
  }

  step(state: number, character: string): number {
    if (state <= TOP) return state;
    if (state === WAITING) return character === this.separator ? this.#pack(this.inner.start, 1) : WAITING;
    const isPast = (state - FIRST) & 1;
    if (this.side === 'before') {
      if (isPast) return state;
      if (character === this.separator) return this.#pack((state - FIRST) >> 1, 1);
    }
    return this.#pack(this.inner.step((state - FIRST) >> 1, character), isPast);
  }

  has(text: string): boolean {
    let at = this.start;
    for (const character of text) at = this.step(at, character);
    return this.accepting(at);
  }

  samples(): string[] {
    return this.inner.samples().map((sample) => (this.side === 'before' ? sample : `me${this.separator}${sample}`));
  }

  #pack(state: number, isPast: number): number {
    if (state === DEAD || state === TOP) return state;
    return FIRST + 2 * state + isPast;
  }
}

/** The separator has not come yet. */
const WAITING = 2;
const FIRST = 3;
