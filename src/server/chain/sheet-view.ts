import { and, eq } from 'drizzle-orm';
import { chainFromSheet, type SheetRow, sheetOf } from '../../core/rules/sheet';
import { toldText } from '../../core/rules/told/text';
import { readCsv, writeCsv } from '../../files/csv';
import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { scripts } from '../database/schema';
import { isSheetName } from '../gather/rules-file';
import { type RuleOffers, ruleOffers } from './rule-view';

export interface SheetView {
  /** The entries of the draft, after which new rules can be added, and those that a sheet cannot express. */
  readonly entries: number;
  readonly blocks: readonly { readonly id: string; readonly name: string; readonly reason: string }[];
  readonly offers: RuleOffers;
  /** Rows of an imported sheet that were rejected; null if no sheet is asked for. */
  readonly refused: { readonly fileName: string; readonly rows: readonly SheetRow[] } | null;
}

/** `script`: the imported sheet whose rows are to be corrected. */
export function sheetView(store: Store, auditId: string, script: string | null = null): SheetView {
  const audit = getAudit(store, auditId);
  const { entries } = audit.draft;
  return {
    entries: entries.length,
    blocks: entries.flatMap((entry) =>
      entry.kind === 'script' ? [{ id: entry.id, name: entry.name, reason: entry.reason }] : [],
    ),
    offers: ruleOffers(store, audit),
    refused: script === null ? null : refusedRows(store, auditId, script),
  };
}

function refusedRows(store: Store, auditId: string, script: string): SheetView['refused'] {
  const row = store
    .select({ fileName: scripts.fileName, source: scripts.source })
    .from(scripts)
    .where(and(eq(scripts.auditId, auditId), eq(scripts.id, script)))
    .get();
  if (!row || !isSheetName(row.fileName)) return null;
  return { fileName: row.fileName, rows: chainFromSheet(readCsv(row.source).rows).refused };
}

/** The rules of the draft as a sheet, without script blocks. */
export const draftSheet = (store: Store, auditId: string): string => writeCsv(sheetOf(getAudit(store, auditId).draft));

/** The rules of the draft as sentences, without script blocks. */
export const draftSentences = (store: Store, auditId: string): string => toldText(getAudit(store, auditId).draft);
