import { elementAt } from '../text/lookup';

/** Whether some message matches both rules of a pair: unknown until settled. */
export type PairState = 'unknown' | 'possible' | 'exclusive';

const STATES: readonly PairState[] = ['unknown', 'possible', 'exclusive'];

const NUMBERS: Readonly<Record<PairState, number>> = { unknown: 0, possible: 1, exclusive: 2 };

/** What is known of all pairs of rules, by their indexes; one octet a pair, since thousands of rules make millions. */
export class PairTable {
  readonly #states: Uint8Array;

  constructor(readonly size: number) {
    this.#states = new Uint8Array((size * (size - 1)) / 2);
  }

  at(a: number, b: number): PairState {
    return elementAt(STATES, this.#states[this.#place(a, b)] ?? 0);
  }

  isPossible(a: number, b: number): boolean {
    return this.#states[this.#place(a, b)] === NUMBERS.possible;
  }

  set(a: number, b: number, state: PairState): void {
    this.#states[this.#place(a, b)] = NUMBERS[state];
  }

  count(state: PairState): number {
    const wanted = NUMBERS[state];
    return this.#states.reduce((count, one) => (one === wanted ? count + 1 : count), 0);
  }

  #place(a: number, b: number): number {
    return a < b ? (b * (b - 1)) / 2 + a : (a * (a - 1)) / 2 + b;
  }
}
