import { Worker } from 'node:worker_threads';
import type { Steps } from '../../core/audit/stepwise';
import { isHeld, packingOfThread } from '../../files/packing';

/**
 * Megabytes of V8's young generation, half the default: an import, which uses two threads, takes up to 15% longer and
 * 60 MB less.
 */
const NEW_OBJECTS = 24;

/** Starts a thread with a bounded heap: a task that exceeds it ends with its thread, and the server continues. */
export function startThread(file: string): Worker {
  const { data, word } = packingOfThread();
  const worker = new Worker(file, {
    workerData: data,
    resourceLimits: { maxOldGenerationSizeMb: heapLimit(), maxYoungGenerationSizeMb: NEW_OBJECTS },
  });
  words.set(worker, word);
  return worker;
}

const words = new WeakMap<Worker, Int32Array>();

/** Milliseconds between two looks whether a thread can be ended. */
const LOOK = 1;

/** Ends a thread, whatever it does, as soon as it packs nothing (`packing.ts`). */
export async function endThread(worker: Worker): Promise<void> {
  const word = words.get(worker);
  while (word && !isHeld(word)) await new Promise((resolve) => setTimeout(resolve, LOOK));
  await worker.terminate();
}

export const isOutOfMemory = (error: Error & { readonly code?: string }): boolean =>
  error.code === 'ERR_WORKER_OUT_OF_MEMORY';

/** Megabytes of the JavaScript heap of one thread; buffers and bitmaps are outside it. `YSOMERIS_THREAD_MB` sets another limit. */
export const heapLimit = (): number => Number(process.env.YSOMERIS_THREAD_MB) || 2048;

/** The wording of an error that ended a thread. */
export const faultOfThread = (error: Error): string =>
  isOutOfMemory(error) ? `it needed more memory than the ${heapLimit()} MB that a thread may use` : error.message;

/** Runs all steps, letting other waiting work run in between. */
export async function betweenOthers<T>(steps: Steps<T>): Promise<T> {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
    await new Promise((resolve) => setImmediate(resolve));
  }
}

/** Milliseconds between two checks whether to continue waiting. */
const WATCHED = 50;

/** Awaits the result of another thread; `checkpoint` may throw to stop waiting. */
export async function watched<T>(awaited: Promise<T>, checkpoint: () => void): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const ended = new Promise<never>((_, failed) => {
    timer = setInterval(() => {
      try {
        checkpoint();
      } catch (error) {
        failed(error);
      }
    }, WATCHED);
  });
  try {
    return await Promise.race([awaited, ended]);
  } finally {
    clearInterval(timer);
  }
}
