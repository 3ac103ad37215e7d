import { askingChain } from '../../core/repair/expectations';
import type { Edit } from '../../core/rules/edit';
import type { Chain } from '../../core/rules/rule';
import { getAudit } from '../audits/audits';
import { evaluateAndKeep, missingAtoms } from '../chain/simulation';
import { chainAfter } from '../changes/changes';
import { listExpectations } from '../changes/expectations';
import type { Store } from '../database/open';
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
  await evaluateChains(store, job, [audit.draft, chainAfter(audit, edits)], sharer);
  return 'the effect is known';
}

/** Evaluates what is missing for some chains and for what is expected of them. */
export async function evaluateChains(
  store: Store,
  job: JobContext,
  chains: readonly Chain[],
  sharer: Sharer | null,
): Promise<void> {
  const audit = getAudit(store, job.auditId);
  const asking = askingChain(listExpectations(store, audit.id));
  const missing = [...chains, asking].flatMap((chain) => missingAtoms(store, audit, chain));
  const progress = (done: number, total: number) => {
    job.checkpoint();
    job.report({ phase: 'evaluating tests', done, total, unit: 'columns' });
  };
  await evaluateAndKeep(store, audit, missing, progress, sharer);
}
