import { CONSEQUENCES, type Finding, type Repair, type Statement } from '../../core/audit/finding';
import { notPortable } from '../../core/handover/not-portable';
import type { Audit } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { handoverSettings, hasTarget, maybeRecord, preparedScript } from '../handover/handover';
import type { KeptResult } from './packed';
import { maybeResult, repairsOf } from './results';

/** All findings about the draft: those of the audit, and those about the target once it is known. Null if it was not audited. */
export function maybeAllFindings(store: Store, audit: Audit): KeptResult | null {
  const result = maybeResult(store, audit, audit.draft);
  if (!result || !hasTarget(store, audit.id) || handoverSettings(store, audit.id).target === 'everything')
    return result;
  const rank = ({ consequence }: Statement) => CONSEQUENCES.indexOf(consequence);
  const findings = [...result.findings, ...forTarget(store, audit)].sort((a, b) => rank(a) - rank(b));
  return { ...result, findings };
}

export const maybeStatedFindings = (store: Store, audit: Audit): readonly Statement[] | null =>
  maybeAllFindings(store, audit)?.findings ?? null;

/** The repairs of a finding on the draft. */
export function repairsFor(store: Store, audit: Audit, { key, kind }: Statement): readonly Repair[] {
  if (kind !== 'not-portable') return repairsOf(store, audit, audit.draft, key);
  return forTarget(store, audit).find((finding) => finding.key === key)?.repairs ?? [];
}

function forTarget(store: Store, audit: Audit): Finding[] {
  const prepared = preparedScript(store, audit);
  const record = maybeRecord(store, audit, prepared)?.record;
  const flow = maybeFlow(store, audit, audit.draft);
  return notPortable(audit.draft, prepared.costs, (id) => {
    const weighed = record?.costs.find((cost) => cost.id === id);
    if (weighed) return { messages: weighed.messages, weighed: true, none: weighed.none };
    const fired = flow?.entries.find(({ entry }) => entry.id === id)?.fired;
    return { messages: fired ? [...fired.members()] : [], weighed: false, none: false };
  });
}
