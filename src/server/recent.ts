/** Keeps what was used last, up to a total weight; what is older is let go. */
export class Recent<V> {
  readonly #held = new Map<string, V>();
  #weight = 0;

  constructor(
    readonly limit: number,
    readonly weigh: (value: V) => number,
  ) {}

  get(key: string): V | undefined {
    const value = this.#held.get(key);
    if (value !== undefined) {
      this.#held.delete(key);
      this.#held.set(key, value);
    }
    return value;
  }

  set(key: string, value: V): void {
    const before = this.#held.get(key);
    if (before !== undefined) this.#drop(key, before);
    this.#held.set(key, value);
    this.#weight += this.weigh(value);
    for (const [oldest, held] of this.#held) {
      if (this.#weight <= this.limit) break;
      this.#drop(oldest, held);
    }
  }

  #drop(key: string, value: V): void {
    this.#held.delete(key);
    this.#weight -= this.weigh(value);
  }
}
