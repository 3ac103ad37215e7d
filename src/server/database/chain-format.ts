import { eq, lt } from 'drizzle-orm';
import { readWrittenAction } from '../../core/rules/as-written';
import { inTransaction, type Store } from './open';
import { audits, changes, versions } from './schema';

/**
 * The form in which chains and edits are written: 0 kept filing with `:create` word for word, so that no finding looked at where such
 * rules file.
 */
export const CHAIN_FORMAT = 1;

/**
 * Writes the chains, changes and versions of audits that an earlier build has kept in the form of today; all of an audit at once,
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
    });
  }
}

/** A chain, edits, or whatever else holds rules, in the form of today. */
export const inFormOfToday = <T>(value: T): T => JSON.parse(JSON.stringify(value), ofToday) as T;

function ofToday(_: string, value: unknown): unknown {
  if (typeof value !== 'object' || value === null || !('action' in value) || !('text' in value)) return value;
  const { action, text } = value;
  if (action !== 'sieve' || typeof text !== 'string' || !('name' in value) || value.name !== 'fileinto') return value;
  const reading = readWrittenAction(text);
  return reading.ok ? reading.said : value;
}
