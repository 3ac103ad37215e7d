import { parentPort } from 'node:worker_threads';
import { appRoot, openStore, type Store } from '../database/open';
import { DISK_FULL, isDiskFull } from '../database/reserve';
import { Cancelled, type JobContext, type WorkerReport, type WorkerTask } from './job';
import { type Helpers, perform } from './perform';
import { PreparerThread } from './preparer';
import { SharerThread } from './sharer';

/** A thread that runs one job after another, with a database connection of its own. */
let opened: { readonly file: string; readonly store: Store } | null = null;
const send = (report: WorkerReport) => parentPort?.postMessage(report);

const bundle = (name: string): string => [appRoot(), 'dist', name].join('/');
let kept: PreparerThread | null = null;
const inOwnThreads: Helpers = {
  // Kept for the next import; it ends with this thread.
  preparer: () => {
    const thread = kept?.isAlive ? kept : new PreparerThread(bundle('prepare.worker.mjs'));
    kept = thread;
    return { prepare: (batch) => thread.prepare(batch), close: () => {} };
  },
  sharer: () => new SharerThread(bundle('share.worker.mjs')),
};

function messageOf(error: unknown): string {
  if (isDiskFull(error)) return DISK_FULL;
  return error instanceof Error ? error.message : String(error);
}

/** Milliseconds between two reports of progress. */
const REPORT_INTERVAL = 100;

parentPort?.on('message', async ({ auditId, request, databaseFile, secret, cancel }: WorkerTask) => {
  const flag = new Int32Array(cancel);
  let reportedAt = 0;
  let phase = '';
  const job: JobContext = {
    auditId,
    report: (progress) => {
      const now = Date.now();
      if (now - reportedAt < REPORT_INTERVAL && progress.phase === phase) return;
      reportedAt = now;
      phase = progress.phase;
      send({ kind: 'progress', progress });
    },
    checkpoint: () => {
      if (Atomics.load(flag, 0) !== 0) throw new Cancelled();
    },
  };
  try {
    const use = request.kind === 'import' || request.kind === 'fetch' ? 'import' : 'ordinary';
    if (opened?.file !== databaseFile) opened = { file: databaseFile, store: openStore(databaseFile, use) };
    send({ kind: 'done', message: await perform(opened.store, job, request, { ...inOwnThreads, secret }) });
  } catch (error) {
    if (error instanceof Cancelled) send({ kind: 'cancelled' });
    else send({ kind: 'failed', message: messageOf(error) });
  }
});
