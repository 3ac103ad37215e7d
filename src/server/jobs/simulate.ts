import { getAudit } from '../audits';
import type { Store } from '../database/open';
import { workOutKnowledge } from '../knowledge';
import { auditAndKeep, evaluateAndKeep, maybeResult, missingAtoms } from '../simulation';
import type { JobContext } from './job';
import type { Sharer } from './sharer';

/** Evaluates what is missing for the draft and the baseline, then audits the draft. */
export async function simulate(store: Store, job: JobContext, sharer: Sharer | null): Promise<string> {
  const audit = getAudit(store, job.auditId);
  const missing = missingAtoms(store, audit, audit.draft);
  const progress = (done: number, total: number) => {
    job.checkpoint();
    job.report({ phase: 'evaluating tests', done, total, unit: 'columns' });
  };
  await evaluateAndKeep(store, audit, missing, progress, sharer);
  job.checkpoint();
  job.report({ phase: 'finding conversations and correspondents', done: 0, total: 1, unit: 'steps' });
  workOutKnowledge(store, audit);
  job.checkpoint();
  const { findings } =
    maybeResult(store, audit, audit.draft) ??
    auditAndKeep(store, audit, audit.draft, (done, total) => {
      job.checkpoint();
      job.report({ phase: 'looking for findings', done, total, unit: 'steps' });
    });
  return `${findings.length} findings`;
}
