/** Random numbers that are the same in every run: mulberry32 (common practice), seeded. */
export class Dice {
  #state: number;

  constructor(seed: number) {
    this.#state = seed >>> 0;
  }

  /** At least 0, less than 1. */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(this.#state ^ (this.#state >>> 15), this.#state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  }

  /** A whole number from `low` to `high`, both included. */
  between(low: number, high: number): number {
    return low + Math.floor(this.next() * (high - low + 1));
  }

  pick<T>(items: readonly T[]): T {
    return items[this.between(0, items.length - 1)] as T;
  }

  chance(share: number): boolean {
    return this.next() < share;
  }
}
