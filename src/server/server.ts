import { maybeAudit } from './audits';
import { store } from './database/open';
import { JobRunner } from './jobs/runner';
import { gatherAhead } from './stored-mail';

const held = globalThis as typeof globalThis & { ysomerisRunner?: JobRunner };

/** The server's one runner of jobs, kept where a rebuilt module finds it again. */
export function runner(): JobRunner {
  if (!held.ysomerisRunner) {
    held.ysomerisRunner = new JobRunner(store(), (auditId, { kind }) => {
      const audit = kind === 'simulate' ? maybeAudit(store(), auditId) : null;
      if (audit) void gatherAhead(store(), audit).catch(console.error);
    });
    held.ysomerisRunner.recover();
  }
  return held.ysomerisRunner;
}
