import type { Store } from '../database/open';
import { compare, foresee, simulate, tryRepairs, weigh } from './chain-jobs';
import { fetchMail } from './fetch';
import { importMail } from './import';
import type { JobContext, JobRequest } from './job';
import { workOutPlan } from './plan-job';
import { type Preparer, preparesHere } from './preparer';
import type { Sharer } from './sharer';
import { verify } from './verify';

/** How the work of a job is divided among threads, if at all. */
export interface Helpers {
  readonly preparer: () => Preparer;
  readonly sharer: () => Sharer | null;
  /** What the request needs that is never stored. */
  readonly secret?: string;
}

const ALONE: Helpers = { preparer: () => preparesHere, sharer: () => null };

/** Runs a job; returns a short description of the result. */
export async function perform(
  store: Store,
  job: JobContext,
  request: JobRequest,
  { preparer, sharer, secret = '' }: Helpers = ALONE,
): Promise<string> {
  switch (request.kind) {
    case 'import':
      return importMail(store, job, request.sourceId, request.file, preparer(), request.replaces ?? null);
    case 'fetch':
      return fetchMail(store, job, request.sourceId, secret, preparer());
    case 'simulate':
      return withSharer(sharer(), (other) => simulate(store, job, other));
    case 'verify':
      return withSharer(sharer(), (other) => verify(store, job, other));
    case 'plan':
      return withSharer(sharer(), (other) => workOutPlan(store, job, other));
    case 'weigh':
      return withSharer(sharer(), (other) => weigh(store, job, request.edits, other));
    case 'foresee':
      return withSharer(sharer(), (other) => foresee(store, job, request.edits, other));
    case 'repairs':
      return withSharer(sharer(), (other) => tryRepairs(store, job, request.finding, other));
    case 'compare':
      return withSharer(sharer(), (other) => compare(store, job, request, other));
    default:
      request satisfies never;
      throw new Error('unknown job');
  }
}

async function withSharer<T>(sharer: Sharer | null, work: (sharer: Sharer | null) => Promise<T>): Promise<T> {
  try {
    return await work(sharer);
  } finally {
    sharer?.close();
  }
}
