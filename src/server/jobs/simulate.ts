import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { auditAndKeep, maybeResult } from '../findings/results';
import { workOutKnowledge } from '../mail/knowledge';
import { answer } from './foresee';
import type { JobContext } from './job';
import { rereadMail } from './reread';
import type { Sharer } from './sharer';
import { evaluateChains } from './weigh';

/** Reads mail anew that an earlier edition has read; evaluates what is missing for the draft and the baseline, then audits the draft. */
export async function simulate(store: Store, job: JobContext, sharer: Sharer | null): Promise<string> {
  rereadMail(store, job);
  const audit = getAudit(store, job.auditId);
  await evaluateChains(store, job, [audit.draft], sharer);
  job.checkpoint();
  job.report({ phase: 'finding conversations and correspondents', done: 0, total: 1, unit: 'steps' });
  workOutKnowledge(store, audit, job.checkpoint);
  job.checkpoint();
  const { findings } =
    maybeResult(store, audit, audit.draft) ??
    auditAndKeep(store, audit, audit.draft, (done, total) => {
      job.checkpoint();
      job.report({ phase: 'looking for findings', done, total, unit: 'steps' });
    });
  answer(store, job, audit, audit.draft);
  return `${findings.length} findings`;
}
