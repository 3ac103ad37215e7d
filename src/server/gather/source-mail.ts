import { and, eq, gte, lt, max } from 'drizzle-orm';
import { atOnce, type Steps } from '../../core/audit/stepwise';
import { inTransaction, type Store } from '../database/open';
import { makingRoom } from '../database/reserve';
import { audits, columnPieces, messages, rawPieces, sources } from '../database/schema';
import { dropWords } from '../mail/word-index';

/** The first message of a source whose reading has not begun. */
export const NOT_STARTED = -1;

/** Messages that go in one transaction, so that no other writer waits long. */
const STEP = 2000;

/** Removes all that an import has written, whole or not; the source's own row stays and tells why. */
export const dropSourceMail = (store: Store, sourceId: string): void => atOnce(droppingSourceMail(store, sourceId));

/** The same in steps of less than a tenth of a second. */
export function* droppingSourceMail(store: Store, sourceId: string): Steps<void> {
  const source = store.select().from(sources).where(eq(sources.id, sourceId)).get();
  // Imports of an audit run one after the other, so nothing of another source lies behind an unfinished one.
  if (source && source.firstMessage !== NOT_STARTED) yield* droppingFrom(store, source.auditId, source.firstMessage);
}

/** Removes the messages of an audit from one on; the last ones first, so that what is left is as if less had been read. */
export function* droppingFrom(store: Store, auditId: string, first: number): Steps<void> {
  const audit = store.select().from(audits).where(eq(audits.id, auditId)).get();
  const end = Math.max(first, lastNumber(store, auditId) + 1);
  for (let from = end - ((end - first) % STEP); from >= first; from -= STEP) {
    makingRoom(() =>
      inTransaction(store, (tx) => {
        for (const table of [rawPieces, messages]) {
          const ofStep = and(eq(table.auditId, auditId), gte(table.number, from), lt(table.number, from + STEP));
          tx.delete(table).where(ofStep).run();
        }
        const pieces = and(eq(columnPieces.auditId, auditId), gte(columnPieces.first, from));
        tx.delete(columnPieces).where(pieces).run();
        if (audit) dropWords(tx, audit.ordinal, from, from + STEP);
      }),
    );
    yield;
  }
}

/** The number of the last stored message of an audit, counted or not; -1 where there is none. */
function lastNumber(store: Store, auditId: string): number {
  const last = store
    .select({ number: max(messages.number) })
    .from(messages)
    .where(eq(messages.auditId, auditId))
    .get();
  return last?.number ?? -1;
}
