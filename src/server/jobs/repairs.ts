import { getAudit } from '../audits/audits';
import { chainHash } from '../cache/chain-hash';
import type { Store } from '../database/open';
import { maybeStatedFindings, repairsFor } from '../findings/for-target';
import { foresee } from './foresee';
import type { JobContext } from './job';
import type { Sharer } from './sharer';

/** Tries each repair of a finding on the draft, so that it is known what it ends and brings before it is offered. */
export async function tryRepairs(store: Store, job: JobContext, key: string, sharer: Sharer | null): Promise<string> {
  const audit = getAudit(store, job.auditId);
  const finding = maybeStatedFindings(store, audit)?.find((candidate) => candidate.key === key);
  const repairs = finding ? repairsFor(store, audit, finding) : [];
  for (const { edits } of repairs) {
    job.checkpoint();
    // What is tried on a chain that has changed meanwhile serves nobody.
    if (chainHash(getAudit(store, job.auditId).draft) !== chainHash(audit.draft))
      return 'the chain has changed meanwhile';
    await foresee(store, job, edits, sharer);
  }
  return `${repairs.length} repairs tried`;
}
