import { store } from './database/open';
import { JobRunner } from './jobs/runner';

const held = globalThis as typeof globalThis & { ysomerisRunner?: JobRunner };

/** The server's one runner of jobs, kept where a rebuilt module finds it again. */
export function runner(): JobRunner {
  if (!held.ysomerisRunner) {
    held.ysomerisRunner = new JobRunner(store());
    held.ysomerisRunner.recover();
  }
  return held.ysomerisRunner;
}
