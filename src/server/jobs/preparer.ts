import type { Worker } from 'node:worker_threads';
import { endThread, faultOfThread, startThread } from '../threads/thread';
import { type Batch, type Prepared, prepare } from './prepare';

/** A larger message has a buffer of its own: no chunk of a file is that large. */
const OWN = 4 * 1024 * 1024;

/** Buffers large enough to be transferred to another thread rather than copied; they are detached here. */
export const ownBuffers = (arrays: readonly Uint8Array[], least: number): ArrayBuffer[] => [
  ...new Set(
    arrays.flatMap(({ length, buffer }) => (length >= least && buffer instanceof ArrayBuffer ? [buffer] : [])),
  ),
];

/** Prepares batches and returns them in order. */
export interface Preparer {
  prepare(batch: Batch): Promise<Prepared>;
  close(): void;
}

/** Prepares in the calling thread. */
export const preparesHere: Preparer = {
  prepare: async (batch) => prepare(batch),
  close: () => {},
};

interface Waiting {
  readonly done: (prepared: Prepared) => void;
  readonly failed: (error: Error) => void;
}

/** Prepares in a thread of its own, while the calling thread reads on and writes finished batches. */
export class PreparerThread implements Preparer {
  readonly #worker: Worker;
  readonly #waiting: Waiting[] = [];
  isAlive = true;

  /** `file` is the bundle of `prepare.worker.ts`. */
  constructor(file: string) {
    this.#worker = startThread(file);
    this.#worker.on('message', (prepared: Prepared) => this.#waiting.shift()?.done(prepared));
    this.#worker.on('error', (error: Error) => this.#fail(new Error(faultOfThread(error))));
    this.#worker.on('exit', () => this.#fail(new Error('the thread that prepares messages ended early')));
  }

  prepare(batch: Batch): Promise<Prepared> {
    return new Promise((done, failed) => {
      this.#waiting.push({ done, failed });
      this.#worker.postMessage(
        batch,
        ownBuffers(
          batch.arrivals.map(({ found }) => found.raw),
          OWN,
        ),
      );
    });
  }

  close(): void {
    void endThread(this.#worker);
  }

  #fail(error: Error): void {
    this.isAlive = false;
    for (const { failed } of this.#waiting.splice(0)) failed(error);
  }
}
