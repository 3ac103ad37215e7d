/** Messages from `from` on, up to and without `to`. */
interface Range {
  readonly from: number;
  readonly to: number;
}

/** Messages that are handed out at once: long enough to be worth a turn, short enough that all end at the same time. */
const BLOCK = 128;

/**
 * Hands out the messages of an audit to all threads that ask, block by block, each message once. `next` holds the first
 * message that nobody has taken yet.
 */
export class Shares {
  readonly #next: Int32Array;

  constructor(
    readonly count: number,
    readonly next = new SharedArrayBuffer(4),
  ) {
    this.#next = new Int32Array(next);
  }

  /** The ranges that fall to the caller, in ascending order. */
  *take(): Generator<Range> {
    for (;;) {
      const from = Atomics.add(this.#next, 0, BLOCK);
      if (from >= this.count) return;
      yield { from, to: Math.min(this.count, from + BLOCK) };
    }
  }
}
