import { and, asc, eq } from 'drizzle-orm';
import { getAudit, Refusal } from '../audits/audits';
import type { Store } from '../database/open';
import { receipts } from '../database/schema';

export type Receipt = Omit<typeof receipts.$inferSelect, 'auditId'>;

/** Characters of what is said of a file, which may be its own words. */
const MOST_WORDS = 2000;

/** Keeps what became of a file. */
export function keepReceipt(
  store: Store,
  auditId: string,
  { fileName, outcome, kind, target, words }: Pick<Receipt, 'fileName' | 'outcome' | 'kind' | 'target' | 'words'>,
): void {
  store
    .insert(receipts)
    .values({ auditId, fileName, outcome, kind, target, words: words.slice(0, MOST_WORDS), createdAt: Date.now() })
    .run();
}

/** All that were not dismissed, the first one first. */
export function listReceipts(store: Store, auditId: string): Receipt[] {
  return store.select().from(receipts).where(eq(receipts.auditId, auditId)).orderBy(asc(receipts.id)).all();
}

/** Dismisses one receipt, or all of them: null. */
export function dismissReceipts(store: Store, auditId: string, id: number | null): void {
  getAudit(store, auditId);
  const which = id === null ? eq(receipts.auditId, auditId) : and(eq(receipts.auditId, auditId), eq(receipts.id, id));
  const { changes } = store.delete(receipts).where(which).run();
  if (changes === 0 && id !== null) throw new Refusal('There is no such receipt.', 404);
}
