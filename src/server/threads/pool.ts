import type { Worker } from 'node:worker_threads';
import { Refusal } from '../audits/audits';
import { appRoot, databaseFile } from '../database/open';
import type { ApartAnswer, ApartTask, WorkArguments, WorkName, WorkResult } from './tasks';
import { endOfThread, isOutOfMemory, startThread } from './thread';

/** Threads that work at once; a task waits for one of them. */
const MOST_THREADS = 2;
/** Milliseconds that a task may take. */
const PATIENCE = 30_000;

/** Joined by hand, so that no bundler evaluates it. */
const workerFile = (): string => [appRoot(), 'dist', 'pool.worker.mjs'].join('/');

interface Waiting {
  readonly task: ApartTask;
  readonly settle: (answer: ApartAnswer) => void;
}

/** Threads for what takes too long for the one that answers requests. */
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
    // An idle thread keeps no process from its end.
    worker.ref();
    let settled = false;
    const settle = (answer: ApartAnswer, lives: boolean) => {
      if (settled) return;
      settled = true;
      clearTimeout(clock);
      // Removing all listeners would remove Node's own too, and no message of the thread would arrive again.
      for (const event of ['message', 'error', 'exit']) worker.removeAllListeners(event);
      worker.unref();
      if (lives) this.#idle.push(worker);
      else void worker.terminate();
      this.#busy--;
      next.settle(answer);
      this.#next();
    };
    const seconds = PATIENCE / 1000;
    const tooLong = `This takes longer than ${seconds} seconds, and was given up. Nothing was changed.`;
    const clock = setTimeout(() => settle({ kind: 'refused', message: tooLong, status: 422 }, false), PATIENCE);
    worker.on('message', (answer: ApartAnswer) => settle(answer, true));
    worker.on('error', (error) => settle(endedBy(error), false));
    worker.on('exit', () => settle({ kind: 'failed', message: 'the thread ended early' }, false));
    worker.postMessage(next.task);
  }
}

function endedBy(error: Error): ApartAnswer {
  if (!isOutOfMemory(error)) return { kind: 'failed', message: error.message };
  const message = `This was given up: ${endOfThread(error)}. Nothing was changed.`;
  return { kind: 'refused', message, status: 422 };
}

declare global {
  /** Kept where a rebuilt module finds it again. */
  var ysomerisApart: Apart | undefined;
}

/** Works something out in a thread of its own. Throws a refusal as the work itself does, or where it takes too long. */
export async function apart<N extends WorkName>(name: N, ...args: WorkArguments<N>): Promise<WorkResult<N>> {
  globalThis.ysomerisApart ??= new Apart();
  const answer = await globalThis.ysomerisApart.ask({ databaseFile: databaseFile(), name, args });
  switch (answer.kind) {
    case 'done':
      // The worker calls what `name` says; see `pageView`.
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
