import type { Edit } from '../../core/rules/edit';
import { getAudit } from '../audits';
import { chainAfter } from '../changes';
import type { Store } from '../database/open';
import { evaluateAndKeep, missingAtoms } from '../simulation';
import type { JobContext } from './job';
import type { Sharer } from './sharer';

/** Evaluates the tests that edits would bring, so that their effect is known before they are made. */
export async function weigh(
  store: Store,
  job: JobContext,
  edits: readonly Edit[],
  sharer: Sharer | null,
): Promise<string> {
  const audit = getAudit(store, job.auditId);
  const chains = [audit.draft, chainAfter(audit, edits)];
  const missing = chains.flatMap((chain) => missingAtoms(store, audit, chain));
  const progress = (done: number, total: number) => {
    job.checkpoint();
    job.report({ phase: 'evaluating tests', done, total, unit: 'columns' });
  };
  await evaluateAndKeep(store, audit, missing, progress, sharer);
  return 'the effect is known';
}
