import type { Edit } from '../../core/rules/edit';
import type { Chain } from '../../core/rules/rule';
import { type Audit, getAudit } from '../audits/audits';
import { chainAfter } from '../changes/changes';
import { listExpectations } from '../changes/expectations';
import { workOutReasoned, workOutVerdict } from '../changes/verdicts';
import type { Store } from '../database/open';
import { auditAndKeep, maybeResult } from '../findings/results';
import type { JobContext } from './job';
import type { Sharer } from './sharer';
import { weigh } from './weigh';

/**
 * Audits the draft with edits made to it, so that it is known which findings they would end and bring, whether any message
 * could be treated differently, and what becomes of the expectations.
 */
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
  answer(store, job, audit, chain);
  return `${findings.length} findings`;
}

/** Asks reasoning how a chain treats messages beside the draft, or the draft beside what was brought in; and of expectations. */
export function answer(store: Store, job: JobContext, audit: Audit, chain: Chain): void {
  const asked = listExpectations(store, audit.id);
  const report = (done: number) => {
    job.checkpoint();
    job.report({ phase: 'comparing chains', done, total: asked.length + 1, unit: 'steps' });
  };
  report(0);
  workOutVerdict(store, audit, chain === audit.draft ? audit.baseline : audit.draft, chain, job.checkpoint);
  asked.forEach((expectation, at) => {
    report(at + 1);
    workOutReasoned(store, audit, chain, expectation, job.checkpoint);
  });
}
