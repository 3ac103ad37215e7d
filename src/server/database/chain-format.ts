import { eq, lt } from 'drizzle-orm';
import { CHAIN_FORMAT, inFormOfToday } from '../../files/earlier-forms';
import { inTransaction, type Store } from './open';
import { audits, changes, expectations, versions } from './schema';

/**
 * Writes the chains, changes, versions and expectations of audits that an earlier build has kept in the form of today; all of an audit at once,
 * so that its changes still fit its chain.
 */
export function bringChainsUpToDate(store: Store): void {
  const behind = store.select({ id: audits.id }).from(audits).where(lt(audits.chainFormat, CHAIN_FORMAT)).all();
  for (const { id } of behind) {
    inTransaction(store, (tx) => {
      for (const { chain } of tx.select({ chain: audits.chain }).from(audits).where(eq(audits.id, id)).all()) {
        tx.update(audits)
          .set({ chain: inFormOfToday(chain), chainFormat: CHAIN_FORMAT })
          .where(eq(audits.id, id))
          .run();
      }
      for (const change of tx.select().from(changes).where(eq(changes.auditId, id)).all()) {
        tx.update(changes)
          .set({ edits: inFormOfToday(change.edits) })
          .where(eq(changes.id, change.id))
          .run();
      }
      for (const version of tx.select().from(versions).where(eq(versions.auditId, id)).all()) {
        tx.update(versions)
          .set({ chain: inFormOfToday(version.chain) })
          .where(eq(versions.id, version.id))
          .run();
      }
      for (const expectation of tx.select().from(expectations).where(eq(expectations.auditId, id)).all()) {
        tx.update(expectations)
          .set({ statement: inFormOfToday(expectation.statement) })
          .where(eq(expectations.id, expectation.id))
          .run();
      }
    });
  }
}
