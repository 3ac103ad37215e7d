import { and, eq } from 'drizzle-orm';
import { chainFromSheet, type SheetRow, sheetOf } from '../../core/rules/sheet';
import { readCsv, writeCsv } from '../../files/csv';
import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { scripts } from '../database/schema';
import { isSheetName } from '../gather/rules-file';
import { type RuleOffers, ruleOffers } from './rule-view';

export interface SheetView {
  /** Entries of the draft, behind which new rules can be put, and those of them that no row can say. */
  readonly entries: number;
  readonly blocks: readonly { readonly id: string; readonly name: string; readonly reason: string }[];
  readonly offers: RuleOffers;
  /** Rows of a sheet that was imported, which were left out since something in them is wrong; null where none is asked about. */
  readonly refused: { readonly fileName: string; readonly rows: readonly SheetRow[] } | null;
}

/** `script`: the imported sheet whose rows are to be mended. */
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

/** The rules of the draft as a sheet, script blocks left out. */
export const draftSheet = (store: Store, auditId: string): string => writeCsv(sheetOf(getAudit(store, auditId).draft));
