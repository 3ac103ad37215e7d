/** Messages from `from` on, up to and without `to`. */
interface Range {
  readonly from: number;
  readonly to: number;
}

/** Messages handed out at once: enough to be worth a turn, few enough that all threads end together. */
const BLOCK = 128;

/**
 * Hands out the messages of an audit to all threads, block by block, each message once. `next` is the first message not
 * handed out yet.
 */
export class Shares {
  readonly #next: Int32Array;

  constructor(
    readonly count: number,
    readonly next = new SharedArrayBuffer(4),
  ) {
    this.#next = new Int32Array(next);
  }

  /** The caller's ranges, ascending. */
  *take(): Generator<Range> {
    for (;;) {
      const from = Atomics.add(this.#next, 0, BLOCK);
      if (from >= this.count) return;
      yield { from, to: Math.min(this.count, from + BLOCK) };
    }
  }
}
