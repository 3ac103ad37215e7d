import { maybeAudit } from '../audits/audits';
import { store } from '../database/open';
import { JobRunner } from '../jobs/runner';
import { gatherAhead } from '../mail/stored-mail';

declare global {
  /** Kept where a rebuilt module finds it again. */
  var ysomerisRunner: JobRunner | undefined;
}

/** The server's one runner of jobs, kept where a rebuilt module finds it again. */
export function runner(): JobRunner {
  if (!globalThis.ysomerisRunner) {
    const made = new JobRunner(store(), (auditId, { kind }) => {
      const audit = kind === 'simulate' ? maybeAudit(store(), auditId) : null;
      if (audit) void gatherAhead(store(), audit).catch(console.error);
    });
    made.recover();
    globalThis.ysomerisRunner = made;
  }
  return globalThis.ysomerisRunner;
}

/** Null where none was begun. */
export const maybeRunner = (): JobRunner | null => globalThis.ysomerisRunner ?? null;

/** The next use begins another one. */
export function forgetRunner(): void {
  globalThis.ysomerisRunner = undefined;
}
