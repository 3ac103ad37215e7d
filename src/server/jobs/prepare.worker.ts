import { parentPort } from 'node:worker_threads';
import { type Batch, prepare } from './prepare';
import { ownBuffers } from './preparer';

/** Compressed octets beyond which zlib allocates a buffer of its own. */
const OWN = 64 * 1024;

/** The second thread of an import: prepares batches in the order they arrive. */
parentPort?.on('message', (batch: Batch) => {
  const prepared = prepare(batch);
  const packed = prepared.raws.map(({ data }) => data);
  parentPort?.postMessage(prepared, ownBuffers(packed, OWN));
});
