import { Worker } from 'node:worker_threads';

/** Megabytes for new objects, half of what V8 takes by itself: an import, which runs in two threads, takes up to 15% longer and 60 MB less. */
const NEW_OBJECTS = 24;

/** Starts a thread with a bounded heap: a task that needs more ends with its thread, and the server lives on. */
export const startThread = (file: string): Worker =>
  new Worker(file, {
    resourceLimits: { maxOldGenerationSizeMb: heapLimit(), maxYoungGenerationSizeMb: NEW_OBJECTS },
  });

export const isOutOfMemory = (error: Error & { readonly code?: string }): boolean =>
  error.code === 'ERR_WORKER_OUT_OF_MEMORY';

/** Megabytes of the JavaScript heap of one thread; buffers and bitmaps are outside it. `YSOMERIS_THREAD_MB` sets another limit. */
export const heapLimit = (): number => Number(process.env.YSOMERIS_THREAD_MB) || 2048;

/** The words for an error that ended a thread. */
export const endOfThread = (error: Error): string =>
  isOutOfMemory(error) ? `it needed more memory than the ${heapLimit()} MB that a thread may use` : error.message;
