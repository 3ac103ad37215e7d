import { maybeAudit } from '../audits/audits';
import { store } from '../database/open';
import { JobRunner } from '../jobs/runner';
import { gatherAhead } from '../mail/stored-mail';

const held = globalThis as typeof globalThis & { ysomerisRunner?: JobRunner };

/** The server's one runner of jobs, kept where a rebuilt module finds it again. */
export function runner(): JobRunner {
  if (!held.ysomerisRunner) {
    const made = new JobRunner(store(), (auditId, { kind }) => {
      const audit = kind === 'simulate' ? maybeAudit(store(), auditId) : null;
      if (audit) void gatherAhead(store(), audit).catch(console.error);
    });
    made.recover();
    held.ysomerisRunner = made;
  }
  return held.ysomerisRunner;
}

/** Null where none was begun. */
export const maybeRunner = (): JobRunner | null => held.ysomerisRunner ?? null;

/** The next use begins another one. */
export function forgetRunner(): void {
  delete held.ysomerisRunner;
}
