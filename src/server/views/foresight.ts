import { foresee } from '../../core/repair/foresight';
import type { Edit } from '../../core/rules/edit';
import { getAudit } from '../audits';
import { chainAfter } from '../changes';
import type { Store } from '../database/open';
import { maybeResult } from '../simulation';
import { type FindingLine, lineOf } from './findings';

/** The findings that a change would end and bring, the weightiest first. */
export interface ForesightView {
  readonly ended: readonly FindingLine[];
  readonly brought: readonly FindingLine[];
  /** How many would be said of another rule, about the same mail. */
  readonly passedOn: number;
}

/** Null while the chain is not audited with the change, or without it. */
export function maybeForesight(store: Store, auditId: string, edits: readonly Edit[]): ForesightView | null {
  const audit = getAudit(store, auditId);
  const [before, after] = [audit.draft, chainAfter(audit, edits)].map((chain) => maybeResult(store, audit, chain));
  if (!before || !after) return null;
  const { ended, brought, passedOn } = foresee(before.findings, after.findings);
  return { ended: ended.map(lineOf), brought: brought.map(lineOf), passedOn: passedOn.length };
}
