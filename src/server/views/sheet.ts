import { sheetOf } from '../../core/rules/sheet';
import { writeCsv } from '../../files/csv';
import { getAudit } from '../audits';
import type { Store } from '../database/open';
import { type RuleOffers, ruleOffers } from './rule-desk';

export interface SheetView {
  /** Entries of the draft, behind which new rules can be put, and those of them that no row can say. */
  readonly entries: number;
  readonly blocks: number;
  readonly offers: RuleOffers;
}

export function sheetView(store: Store, auditId: string): SheetView {
  const audit = getAudit(store, auditId);
  const { entries } = audit.draft;
  return {
    entries: entries.length,
    blocks: entries.filter(({ kind }) => kind === 'script').length,
    offers: ruleOffers(store, audit),
  };
}

/** The rules of the draft as a sheet, script blocks left out. */
export const draftSheet = (store: Store, auditId: string): string => writeCsv(sheetOf(getAudit(store, auditId).draft));
