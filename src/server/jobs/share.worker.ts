import { parentPort } from 'node:worker_threads';
import { openStore } from '../database/open';
import { type SharedTask, takePart } from './sharer';

/** A second thread for what only the interpreter can run, with a database connection of its own. */
parentPort?.on('message', (task: SharedTask) => {
  const found = takePart(openStore(task.databaseFile), task);
  parentPort?.postMessage(new Map(Array.from(found, ([key, { words }]) => [key, words])));
});
