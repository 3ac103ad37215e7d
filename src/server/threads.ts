import { Worker } from 'node:worker_threads';

/** Starts a thread with a bounded heap: a task that needs more ends with its thread, and the server lives on. */
export const startThread = (file: string): Worker =>
  new Worker(file, { resourceLimits: { maxOldGenerationSizeMb: heapLimit() } });

export const isOutOfMemory = (error: Error & { readonly code?: string }): boolean =>
  error.code === 'ERR_WORKER_OUT_OF_MEMORY';

/** Megabytes of the JavaScript heap of one thread; buffers and bitmaps are outside it. `YSOMERIS_THREAD_MB` sets another limit. */
export const heapLimit = (): number => Number(process.env.YSOMERIS_THREAD_MB) || 2048;

/** The words for an error that ended a thread. */
export const endOfThread = (error: Error): string =>
  isOutOfMemory(error) ? `it needed more memory than the ${heapLimit()} MB that a thread may use` : error.message;
