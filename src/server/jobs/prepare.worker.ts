import { parentPort } from 'node:worker_threads';
import { type Batch, prepare } from './prepare';

/** The second thread of an import: prepares batches in the order in which they come. */
parentPort?.on('message', (batch: Batch) => parentPort?.postMessage(prepare(batch)));
