import { parentPort } from 'node:worker_threads';
import { type Batch, prepare } from './prepare';
import { ownBuffers } from './preparer';

/** Packed octets beyond which zlib gives a buffer of their own. */
const OWN = 64 * 1024;

/** The second thread of an import: prepares batches in the order in which they come. */
parentPort?.on('message', (batch: Batch) => {
  const prepared = prepare(batch);
  const packed = prepared.raws.map(({ data }) => data);
  parentPort?.postMessage(prepared, ownBuffers(packed, OWN));
});
