import type { Worker } from 'node:worker_threads';
import { Refusal } from '../audits/audits';
import { appRoot, databaseFile } from '../database/open';
import type { ApartAnswer, ApartTask, WorkArguments, WorkName, WorkResult } from './tasks';
import { endThread, faultOfThread, isOutOfMemory, startThread } from './thread';

/** Threads at once; further tasks wait. */
const MOST_THREADS = 2;
/** Milliseconds a task may take. */
const PATIENCE = 30_000;

/** Joined by hand, so that no bundler evaluates it. */
const workerFile = (): string => [appRoot(), 'dist', 'pool.worker.mjs'].join('/');

interface Waiting {
  readonly task: ApartTask;
  readonly settle: (answer: ApartAnswer) => void;
}

/** Threads for work that would block the main thread too long. */
class Apart {
  readonly #idle: Worker[] = [];
  readonly #waiting: Waiting[] = [];
  #busy = 0;

  ask(task: ApartTask): Promise<ApartAnswer> {
    return new Promise((settle) => {
      this.#waiting.push({ task, settle });
      this.#next();
    });
  }

  #next(): void {
    const next = this.#busy < MOST_THREADS ? this.#waiting.shift() : undefined;
    if (!next) return;
    this.#busy++;
    const worker = this.#idle.pop() ?? startThread(workerFile());
    // An idle thread does not keep the process alive.
    worker.ref();
    let settled = false;
    const settle = (answer: ApartAnswer, lives: boolean) => {
      if (settled) return;
      settled = true;
      clearTimeout(clock);
      // Removing all listeners would also remove Node's own, and no further message of the thread would arrive.
      for (const event of ['message', 'error', 'exit']) worker.removeAllListeners(event);
      worker.unref();
      if (lives) this.#idle.push(worker);
      else void endThread(worker);
      this.#busy--;
      next.settle(answer);
      this.#next();
    };
    const seconds = PATIENCE / 1000;
    const tooLong = `This took longer than ${seconds} seconds and was stopped. Nothing was changed.`;
    const clock = setTimeout(() => settle({ kind: 'refused', message: tooLong, status: 422 }, false), PATIENCE);
    worker.on('message', (answer: ApartAnswer) => settle(answer, true));
    worker.on('error', (error) => settle(endedBy(error), false));
    worker.on('exit', () => settle({ kind: 'failed', message: 'the thread ended early' }, false));
    worker.postMessage(next.task);
  }
}

function endedBy(error: Error): ApartAnswer {
  if (!isOutOfMemory(error)) return { kind: 'failed', message: error.message };
  const message = `This was stopped: ${faultOfThread(error)}. Nothing was changed.`;
  return { kind: 'refused', message, status: 422 };
}

declare global {
  /** On `globalThis`, where a reloaded module finds it again. */
  var ysomerisApart: Apart | undefined;
}

/** Runs a task in a thread. Throws the task's refusal, or one of its own if the task takes too long. */
export async function apart<N extends WorkName>(name: N, ...args: WorkArguments<N>): Promise<WorkResult<N>> {
  globalThis.ysomerisApart ??= new Apart();
  const answer = await globalThis.ysomerisApart.ask({ databaseFile: databaseFile(), name, args });
  switch (answer.kind) {
    case 'done':
      // The worker calls the function named `name`; see `pageView`.
      return answer.result as WorkResult<N>;
    case 'refused':
      throw new Refusal(answer.message, answer.status);
    case 'failed':
      throw new Error(answer.message);
    default:
      answer satisfies never;
      throw new Error('unknown answer');
  }
}
