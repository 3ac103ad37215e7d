import type { Store } from '../database/open';
import { importMail } from './import';
import type { JobContext, JobRequest } from './job';
import { type Preparer, preparesHere } from './preparer';
import { simulate } from './simulate';
import { verify } from './verify';
import { weigh } from './weigh';

/** Does a job's work; returns what is to be said of it in a few words. */
export async function perform(
  store: Store,
  job: JobContext,
  request: JobRequest,
  preparer: () => Preparer = () => preparesHere,
): Promise<string> {
  switch (request.kind) {
    case 'import':
      return importMail(store, job, request.sourceId, request.file, preparer());
    case 'simulate':
      return simulate(store, job);
    case 'verify':
      return verify(store, job);
    case 'weigh':
      return weigh(store, job, request.edits);
    default:
      request satisfies never;
      throw new Error('unknown job');
  }
}
