import { eq } from 'drizzle-orm';
import { inTransaction, type Store } from '../database/open';
import { audits, sources } from '../database/schema';
import { countAnew } from '../gather/folders';
import { NOT_STARTED, recount } from '../gather/mail-sources';
import { endLook, type Look } from './looks';

/** What a run has found, or that it is not known since the run was killed. */
export interface Outcome extends Pick<Look, 'added' | 'flagged' | 'gone' | 'trouble'> {}

/**
 * Ends a run that fetched mail, in one transaction: from now on its messages count. A source without messages is deleted.
 * `outcome` is null where the run was killed; `statement` is shown beside the source.
 */
export function concludeFetch(
  store: Store,
  auditId: string,
  sourceId: string,
  outcome: Outcome | null,
  statement: string,
): void {
  inTransaction(store, (tx) => {
    const source = tx.select().from(sources).where(eq(sources.id, sourceId)).get();
    if (source?.state !== 'importing') return;
    const { messages, repeated, firstMessage } = source;
    const isEmpty = firstMessage === NOT_STARTED || messages + repeated === 0;
    if (isEmpty) tx.delete(sources).where(eq(sources.id, sourceId)).run();
    else {
      tx.update(sources).set({ state: 'ready', statement }).where(eq(sources.id, sourceId)).run();
      tx.update(audits)
        .set({ messageCount: firstMessage + messages })
        .where(eq(audits.id, auditId))
        .run();
    }
    if (outcome === null || repeated + outcome.gone > 0) recount(tx, auditId);
    else if (outcome.flagged > 0) countAnew(tx, auditId);
    const found = outcome ?? { added: messages, flagged: 0, gone: 0, trouble: statement };
    endLook(tx, auditId, sourceId, { ...found, ...(isEmpty && { sourceId: null }) });
  });
}
