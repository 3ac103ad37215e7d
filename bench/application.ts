import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createAudit } from '../src/server/audits/audits';
import { appRoot, migrateStore, openStore, type Store } from '../src/server/database/open';
import { importFile } from '../src/server/gather/import-file';
import type { JobContext, JobRequest } from '../src/server/jobs/job';
import { type Helpers, perform } from '../src/server/jobs/perform';
import { PreparerThread } from '../src/server/jobs/preparer';
import { SharerThread } from '../src/server/jobs/sharer';

const bundle = (name: string) => [appRoot(), 'dist', name].join('/');
export const helpers: Helpers = {
  preparer: () => new PreparerThread(bundle('prepare.worker.mjs')),
  sharer: () => new SharerThread(bundle('share.worker.mjs')),
};

/** An audit in a database of its own, and the jobs of the application. */
export interface Bench {
  readonly store: Store;
  readonly id: string;
  readonly job: JobContext;
  /** A scratch folder, and the database within it. */
  readonly folder: string;
  readonly database: string;
  /** Imports a file; `folder`: which one its mail is in. */
  readonly bring: (name: string, body: AsyncIterable<Uint8Array>, folder?: string) => Promise<unknown>;
  /** Runs the jobs that imports have asked for. */
  readonly work: (threads?: Helpers) => Promise<void>;
  readonly end: () => void;
}

export function openBench(): Bench {
  const folder = mkdtempSync(join(tmpdir(), 'bench-'));
  const database = join(folder, 'bench.sqlite');
  process.env.YSOMERIS_DATABASE = database;
  const store = openStore(database);
  migrateStore(store);
  const id = createAudit(store, 'bench');
  const job: JobContext = { auditId: id, report: () => {}, checkpoint: () => {} };
  const asked: JobRequest[] = [];
  const runner = { start: (_audit: string, request: JobRequest) => String(asked.push(request)) };
  return {
    store,
    id,
    job,
    folder,
    database,
    bring: (name, body, inFolder) =>
      importFile(store, runner, id, name, body, inFolder === undefined ? {} : { folder: inFolder }),
    work: async (threads = helpers) => {
      for (let request = asked.shift(); request; request = asked.shift()) await perform(store, job, request, threads);
    },
    end: () => rmSync(folder, { recursive: true, force: true }),
  };
}
