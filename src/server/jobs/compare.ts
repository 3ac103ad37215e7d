import { getAudit } from '../audits/audits';
import { workOutVerdict } from '../changes/verdicts';
import { type ChainRef, chainAt } from '../changes/versions';
import type { Store } from '../database/open';
import type { JobContext } from './job';
import type { Sharer } from './sharer';
import { evaluateChains } from './weigh';

/** Works out how two chains of an audit treat the stored mail, and whether any message at all is treated differently. */
export async function compare(
  store: Store,
  job: JobContext,
  { before, after }: { readonly before: ChainRef; readonly after: ChainRef },
  sharer: Sharer | null,
): Promise<string> {
  const audit = getAudit(store, job.auditId);
  const [first, second] = [chainAt(store, audit, before), chainAt(store, audit, after)];
  await evaluateChains(store, job, [first, second], sharer);
  job.checkpoint();
  job.report({ phase: 'comparing chains', done: 0, total: 1, unit: 'steps' });
  return workOutVerdict(store, audit, first, second, job.checkpoint).verdict;
}
