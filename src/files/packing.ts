import { isMainThread, workerData } from 'node:worker_threads';
import { deflateRawSync, type InputType, inflateRawSync, type ZlibOptions } from 'node:zlib';

/**
 * Node ends the whole process if a thread is terminated while it begins to compress or to unpack ("close before init", Node 20; it
 * happens in a few of a hundred cases). So a thread that does either is not ended until it has done, and one that is
 * being ended does not begin.
 */

/** Octets of the word that a thread shares with those that may end it: how many of its threads pack now, and the bit `ENDING`. */
const WORD = 4;
const ENDING = 1 << 30;

/** What a thread is started with: its own word, and those of the threads that started it, which take it with them. */
interface Started {
  readonly packing: readonly SharedArrayBuffer[];
}

const isStarted = (data: unknown): data is Started => typeof data === 'object' && data !== null && 'packing' in data;

const inherited: readonly SharedArrayBuffer[] = !isMainThread && isStarted(workerData) ? workerData.packing : [];
const own: readonly Int32Array[] = inherited.map((buffer) => new Int32Array(buffer));

/** The data for a new thread, and its own word. */
export function packingOfThread(): { readonly data: Started; readonly word: Int32Array } {
  const buffer = new SharedArrayBuffer(WORD);
  return { data: { packing: [buffer, ...inherited] }, word: new Int32Array(buffer) };
}

/** Keeps a thread, and all that it has started, from packing; whether none of them still does. */
export const isHeld = (word: Int32Array): boolean => (Atomics.or(word, 0, ENDING) & ~ENDING) === 0;

/** Counts this thread as packing; if it is being ended, waits for its end. */
function enter(word: Int32Array): void {
  for (;;) {
    const now = Atomics.load(word, 0);
    if ((now & ENDING) !== 0) Atomics.wait(word, 0, now);
    else if (Atomics.compareExchange(word, 0, now, now + 1) === now) return;
  }
}

function safely<T>(work: () => T): T {
  for (const word of own) enter(word);
  try {
    return work();
  } finally {
    for (const word of own) Atomics.sub(word, 0, 1);
  }
}

export const deflated = (data: InputType, options?: ZlibOptions): Buffer => safely(() => deflateRawSync(data, options));
export const inflated = (data: InputType, options?: ZlibOptions): Buffer => safely(() => inflateRawSync(data, options));
