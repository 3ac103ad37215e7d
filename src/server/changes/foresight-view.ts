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

/** The findings a change would resolve and add, weightiest first. */
export interface ForesightView {
  readonly ended: readonly FindingLine[];
  readonly brought: readonly FindingLine[];
  /** How many findings would move to another rule, about the same mail. */
  readonly passedOn: number;
  /** Whether any possible message is treated differently; null if the proof was not attempted. */
  readonly verdict: Verdict | null;
  /** Expectations it would break for some possible message. */
  readonly broken: readonly Broken[];
}

/** Null while the chain is not audited with and without the change. */
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
