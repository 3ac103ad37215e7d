import { parentPort } from 'node:worker_threads';
import { Refusal } from '../audits/audits';
import { openStore, type Store } from '../database/open';
import { type ApartAnswer, type ApartTask, WORK } from './tasks';

/** A thread that runs one task after another, with a database connection of its own. */
let opened: { readonly file: string; readonly store: Store } | null = null;
const answer = (said: ApartAnswer) => parentPort?.postMessage(said);

parentPort?.on('message', async ({ databaseFile, name, args }: ApartTask) => {
  try {
    if (opened?.file !== databaseFile) opened = { file: databaseFile, store: openStore(databaseFile) };
    // As in `pageView`.
    const work = WORK[name] as (store: Store, ...args: readonly unknown[]) => unknown;
    answer({ kind: 'done', result: await work(opened.store, ...args) });
  } catch (error) {
    if (error instanceof Refusal) answer({ kind: 'refused', message: error.message, status: error.status });
    else answer({ kind: 'failed', message: error instanceof Error ? (error.stack ?? error.message) : String(error) });
  }
});
