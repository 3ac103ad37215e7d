import type { Worker } from 'node:worker_threads';
import { type Atom, evaluateAtoms } from '../../core/flow/atoms';
import { Bitmap } from '../../core/flow/bitmap';
import type { Clock } from '../../core/mail/arrival';
import { Shares } from '../chain/shares';
import { databaseFile, type Store } from '../database/open';
import { StoredColumns } from '../mail/columns';
import { endThread, faultOfThread, startThread } from '../threads/thread';

/** Tests of texts, and tests and script blocks that only the interpreter can run: on what `next` hands out. */
export interface SharedWork {
  readonly auditId: string;
  readonly count: number;
  readonly clock: Clock;
  /** The recipient of messages that do not name theirs. */
  readonly recipient: string | null;
  readonly atoms: readonly Atom[];
  readonly next: SharedArrayBuffer;
}

/** Takes part in such work; returns the bitmaps of `evaluateAtoms` for what it took. */
export interface Sharer {
  share(work: SharedWork): Promise<ReadonlyMap<string, Bitmap>>;
  close(): void;
}

/** The input of a thread; it returns the words of the bitmaps. */
export interface SharedTask extends SharedWork {
  readonly databaseFile: string;
}

/** Takes messages until none are left. */
export function takePart(
  store: Store,
  { auditId, count, clock, recipient, atoms, next }: SharedWork,
  shares = new Shares(count, next),
): Map<string, Bitmap> {
  return evaluateAtoms(atoms, new StoredColumns(store, auditId, count, recipient, shares), () => {}, clock);
}

/** Takes part in a thread of its own, started when there is work. */
export class SharerThread implements Sharer {
  #worker: Worker | null = null;

  /** `file` is the bundle of `share.worker.ts`. */
  constructor(readonly file: string) {}

  share(work: SharedWork): Promise<ReadonlyMap<string, Bitmap>> {
    const worker = startThread(this.file);
    this.#worker = worker;
    return new Promise((done, failed) => {
      worker.on('message', (result: ReadonlyMap<string, Uint32Array>) => {
        done(new Map(Array.from(result, ([key, words]) => [key, new Bitmap(work.count, words)])));
      });
      worker.on('error', (error) => failed(new Error(faultOfThread(error))));
      worker.on('exit', () => failed(new Error('the thread that runs scripts ended early')));
      worker.postMessage({ ...work, databaseFile: databaseFile() } satisfies SharedTask);
    });
  }

  close(): void {
    if (this.#worker) void endThread(this.#worker);
    this.#worker = null;
  }
}
