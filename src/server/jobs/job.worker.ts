import { parentPort, workerData } from 'node:worker_threads';
import { openStore } from '../database/open';
import { Cancelled, type JobContext, type WorkerReport, type WorkerTask } from './job';
import { perform } from './perform';

/** The thread in which one job runs; it has a database connection of its own. */
const { auditId, request, databaseFile, cancel } = workerData as WorkerTask;
const flag = new Int32Array(cancel);
const send = (report: WorkerReport) => parentPort?.postMessage(report);

/** Milliseconds between two reports of progress. */
const REPORT_INTERVAL = 100;
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
  send({ kind: 'done', message: await perform(openStore(databaseFile), job, request) });
} catch (error) {
  if (error instanceof Cancelled) send({ kind: 'cancelled' });
  else send({ kind: 'failed', message: error instanceof Error ? error.message : String(error) });
}
