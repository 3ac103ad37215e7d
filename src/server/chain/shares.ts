/** Messages from `from` on, up to and without `to`. */
interface Range {
  readonly from: number;
  readonly to: number;
}

/** Messages handed out at once: enough to be worth a turn, few enough that all threads end together. */
const BLOCK = 128;

const MESSAGE = 0;
const TEXT = 1;

/**
 * Hands out the messages of an audit to all threads, block by block, each message once; and in the same way the pieces of
 * their texts. `next` has the first message not handed out yet, and the first piece.
 */
export class Shares {
  readonly #next: Int32Array;
  /** The piece of texts that this thread took last, and may not have come to. */
  #piece: number | null = null;

  constructor(
    readonly count: number,
    readonly next = new SharedArrayBuffer(8),
  ) {
    this.#next = new Int32Array(next);
  }

  /** The caller's ranges, ascending. */
  *take(): Generator<Range> {
    for (;;) {
      const from = Atomics.add(this.#next, MESSAGE, BLOCK);
      if (from >= this.count) return;
      yield { from, to: Math.min(this.count, from + BLOCK) };
    }
  }

  /** Whether a piece of texts is the caller's, who asks for one after another. */
  takesText(piece: number): boolean {
    this.#piece ??= Atomics.add(this.#next, TEXT, 1);
    if (this.#piece !== piece) return false;
    this.#piece = null;
    return true;
  }
}
