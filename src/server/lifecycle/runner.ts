import { maybeAudit } from '../audits/audits';
import { store } from '../database/open';
import { JobRunner } from '../jobs/runner';
import { gatherAhead } from '../mail/stored-mail';

declare global {
  /** On `globalThis`, where a reloaded module finds it again. */
  var ysomerisRunner: JobRunner | undefined;
}

/** The server's only job runner, on `globalThis`, where a reloaded module finds it again. */
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

/** Null if none was started. */
export const maybeRunner = (): JobRunner | null => globalThis.ysomerisRunner ?? null;

/** The next use starts another one. */
export function forgetRunner(): void {
  globalThis.ysomerisRunner = undefined;
}
