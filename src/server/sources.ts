import { and, eq, gte } from 'drizzle-orm';
import type { Store } from './database/open';
import { audits, columnPieces, messages, rawPieces, sources } from './database/schema';
import { dropWords } from './words';

/** The first message of a source whose reading has not begun. */
export const NOT_STARTED = -1;

/** Removes all that an import has written, whole or not; the source's own row stays and tells why. */
export function dropSourceMail(store: Store, sourceId: string): void {
  const source = store.select().from(sources).where(eq(sources.id, sourceId)).get();
  if (!source || source.firstMessage === NOT_STARTED) return;
  const { auditId, firstMessage } = source;
  // Imports of an audit run one after the other, so nothing of another source lies behind an unfinished one.
  store.transaction((tx) => {
    const audit = tx.select().from(audits).where(eq(audits.id, auditId)).get();
    if (audit) dropWords(tx as unknown as Store, audit.ordinal, firstMessage);
    tx.delete(messages)
      .where(and(eq(messages.auditId, auditId), gte(messages.number, firstMessage)))
      .run();
    tx.delete(rawPieces)
      .where(and(eq(rawPieces.auditId, auditId), gte(rawPieces.number, firstMessage)))
      .run();
    tx.delete(columnPieces)
      .where(and(eq(columnPieces.auditId, auditId), gte(columnPieces.first, firstMessage)))
      .run();
  });
}
