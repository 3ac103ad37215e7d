import { getAudit } from '../audits';
import type { Store } from '../database/open';
import { workOutKnowledge } from '../knowledge';
import { auditAndKeep, evaluateAndKeep, maybeFindings, missingAtoms } from '../simulation';
import type { JobContext } from './job';

/** Evaluates what is missing for the draft and the baseline, then audits the draft. */
export function simulate(store: Store, job: JobContext): string {
  const audit = getAudit(store, job.auditId);
  const missing = missingAtoms(store, audit, audit.draft);
  evaluateAndKeep(store, audit, missing, (done, total) => {
    job.checkpoint();
    job.report({ phase: 'evaluating tests', done, total, unit: 'columns' });
  });
  job.checkpoint();
  job.report({ phase: 'finding conversations and correspondents', done: 0, total: 1, unit: 'steps' });
  workOutKnowledge(store, audit);
  job.checkpoint();
  job.report({ phase: 'looking for findings', done: 0, total: 1, unit: 'steps' });
  const findings = maybeFindings(store, audit, audit.draft) ?? auditAndKeep(store, audit, audit.draft);
  return `${findings.length} findings`;
}
