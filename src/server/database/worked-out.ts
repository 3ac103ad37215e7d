import { readFileSync } from 'node:fs';
import { eq, lt } from 'drizzle-orm';
import { CHAIN_FORMAT, inFormOfToday } from '../../files/chain-document';
import { appRoot, inTransaction, type OpenStore, type Store } from './open';
import { analyses, answers, atoms, audits, changes, expectations, knowledge, verifications, versions } from './schema';

/** Results derived from rules and mail, which can be computed again. */
const WORKED_OUT = [atoms, knowledge, analyses, answers, verifications];

/**
 * Drops results cached by other builds, so that a bug fixed since cannot survive in the cache. The build is stored in
 * the database as `user_version`. Nothing is dropped if the current build is unknown.
 */
export function forgetWorkedOut(store: OpenStore, digest = ownDigest()): void {
  if (digest === null) return;
  const edition = Number.parseInt(digest.slice(0, 7), 16);
  if (store.$client.pragma('user_version', { simple: true }) === edition) return;
  inTransaction(store, (tx) => {
    for (const table of WORKED_OUT) tx.delete(table).run();
    store.$client.pragma(`user_version = ${edition}`);
  });
}

/** The digest of the sources, written by the build; null if nothing was built. */
function ownDigest(): string | null {
  try {
    return readFileSync([appRoot(), 'dist', 'worked-out-by'].join('/'), 'utf8');
  } catch {
    return null;
  }
}

/**
 * Rewrites the chains, changes, versions and expectations stored by an earlier build in the current form; a whole audit
 * in one transaction, so that the changes still fit the chain.
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
