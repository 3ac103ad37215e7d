import type { Edit } from '../../core/rules/edit';
import { getAudit } from '../audits';
import { chainAfter } from '../changes';
import type { Store } from '../database/open';
import { auditAndKeep, maybeResult } from '../simulation';
import type { JobContext } from './job';
import type { Sharer } from './sharer';
import { weigh } from './weigh';

/** Audits the draft with edits made to it, so that it is known which findings they would end and bring. */
export async function foresee(
  store: Store,
  job: JobContext,
  edits: readonly Edit[],
  sharer: Sharer | null,
): Promise<string> {
  await weigh(store, job, edits, sharer);
  const audit = getAudit(store, job.auditId);
  const chain = chainAfter(audit, edits);
  const { findings } =
    maybeResult(store, audit, chain) ??
    auditAndKeep(store, audit, chain, (done, total) => {
      job.checkpoint();
      job.report({ phase: 'looking for findings', done, total, unit: 'steps' });
    });
  return `${findings.length} findings`;
}
