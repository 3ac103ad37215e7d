import { and, eq, gte, lt, max } from 'drizzle-orm';
import { atOnce, type Steps } from '../core/audit/stepwise';
import { inTransaction, type Store } from './database/open';
import { audits, columnPieces, messages, rawPieces, sources } from './database/schema';
import { dropWords } from './words';

/** The first message of a source whose reading has not begun. */
export const NOT_STARTED = -1;

/** Messages that go in one transaction, so that no other writer waits long. */
const STEP = 2000;

/** Removes all that an import has written, whole or not; the source's own row stays and tells why. */
export const dropSourceMail = (store: Store, sourceId: string): void => atOnce(droppingSourceMail(store, sourceId));

/** The same in steps of less than a tenth of a second. The last messages go first: what is left is as if less had been read. */
export function* droppingSourceMail(store: Store, sourceId: string): Steps<void> {
  const source = store.select().from(sources).where(eq(sources.id, sourceId)).get();
  if (!source || source.firstMessage === NOT_STARTED) return;
  const { auditId, firstMessage } = source;
  // Imports of an audit run one after the other, so nothing of another source lies behind an unfinished one.
  const audit = store.select().from(audits).where(eq(audits.id, auditId)).get();
  const last = store
    .select({ number: max(messages.number) })
    .from(messages)
    .where(eq(messages.auditId, auditId))
    .get();
  const end = Math.max(firstMessage, (last?.number ?? -1) + 1);
  for (let from = end - ((end - firstMessage) % STEP); from >= firstMessage; from -= STEP) {
    inTransaction(store, (tx) => {
      for (const table of [rawPieces, messages]) {
        const ofStep = and(eq(table.auditId, auditId), gte(table.number, from), lt(table.number, from + STEP));
        tx.delete(table).where(ofStep).run();
      }
      const pieces = and(eq(columnPieces.auditId, auditId), gte(columnPieces.first, from));
      tx.delete(columnPieces).where(pieces).run();
      if (audit) dropWords(tx, audit.ordinal, from, from + STEP);
    });
    yield;
  }
}
