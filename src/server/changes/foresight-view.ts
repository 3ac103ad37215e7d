import { foresee } from '../../core/repair/foresight';
import type { Edit } from '../../core/rules/edit';
import { getAudit } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { type FindingLine, lineOf } from '../findings/list-view';
import { maybeResult } from '../findings/results';
import { chainAfter } from './changes';
import { type Broken, brokenBy } from './expectations';
import { maybeVerdict, type Verdict } from './verdicts';

/** The findings that a change would end and bring, the weightiest first. */
export interface ForesightView {
  readonly ended: readonly FindingLine[];
  readonly brought: readonly FindingLine[];
  /** How many would be said of another rule, about the same mail. */
  readonly passedOn: number;
  /** Whether any message at all could be treated differently; null where that was not asked. */
  readonly verdict: Verdict | null;
  /** Expectations that it would break, for any message there could be. */
  readonly broken: readonly Broken[];
}

/** Null while the chain is not audited with the change, or without it. */
export function maybeForesight(store: Store, auditId: string, edits: readonly Edit[]): ForesightView | null {
  const audit = getAudit(store, auditId);
  const changed = chainAfter(audit, edits);
  const chains = [audit.draft, changed];
  const [before, after] = chains.map((chain) => maybeResult(store, audit, chain));
  const [now, then] = chains.map((chain) => maybeFlow(store, audit, chain));
  if (!before || !after || !now || !then) return null;
  const verdict = maybeVerdict(store, audit, audit.draft, changed);
  const broken = brokenBy(store, audit, changed, [now, then], 'known');
  const differing = then.fates.differsFrom(now.fates);
  const { ended, brought, passedOn } = foresee(before.findings, after.findings, differing);
  return { ended: ended.map(lineOf), brought: brought.map(lineOf), passedOn: passedOn.length, verdict, broken };
}
