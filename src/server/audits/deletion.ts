import { and, eq, gte, lt } from 'drizzle-orm';
import { atOnce, type Steps } from '../../core/audit/stepwise';
import { fetchedMessages } from '../database/mailbox-schema';
import { databaseFile, inTransaction, type Store } from '../database/open';
import { emptyLog, keepReserve, makingRoom } from '../database/reserve';
import { audits, messages, rawPieces, repeats } from '../database/schema';
import { dropWords, NEVER, setWrittenAnewAt, USUAL } from '../mail/word-index';

/** Messages deleted in one step. */
const STEP = 2000;

/**
 * Deletes an audit permanently, in steps of less than a tenth of a second. After the first step nobody sees it any
 * more; if the process is killed, the next start deletes the rest.
 */
export function* deletion(store: Store, id: string): Steps<void> {
  makingRoom(() => {
    store.update(audits).set({ deleted: true }).where(eq(audits.id, id)).run();
    setWrittenAnewAt(store, NEVER);
  });
  const row = store.select().from(audits).where(eq(audits.id, id)).get();
  for (let first = 0; first < (row?.messageCount ?? 0); first += STEP) {
    yield;
    makingRoom(() => deleteMessages(store, id, row?.ordinal ?? 0, first, first + STEP));
    emptyLog(store);
  }
  yield;
  makingRoom(() =>
    inTransaction(store, (tx) => {
      if (row) dropWords(tx, row.ordinal, 0);
      tx.delete(audits).where(eq(audits.id, id)).run();
      setWrittenAnewAt(tx, USUAL);
    }),
  );
  emptyLog(store);
  keepReserve(databaseFile());
}

/** From `first` to before `end`. */
function deleteMessages(store: Store, id: string, ordinal: number, first: number, end: number): void {
  inTransaction(store, (tx) => {
    // Octets first: their freed pages are reused by the full-text index, whose deletions write.
    for (const table of [rawPieces, repeats, fetchedMessages, messages]) {
      tx.delete(table)
        .where(and(eq(table.auditId, id), gte(table.number, first), lt(table.number, end)))
        .run();
    }
    dropWords(tx, ordinal, first, end);
  });
}

/** Finishes deletions that a killed process had started. */
export function finishDeletions(store: Store): void {
  const left = store.select({ id: audits.id }).from(audits).where(eq(audits.deleted, true)).all();
  for (const { id } of left) atOnce(deletion(store, id));
}
