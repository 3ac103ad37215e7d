import { readFileSync } from 'node:fs';
import { eq, lt } from 'drizzle-orm';
import { CHAIN_FORMAT, inFormOfToday } from '../../files/chain-document';
import { appRoot, inTransaction, type OpenStore, type Store } from './open';
import { analyses, answers, atoms, audits, changes, expectations, knowledge, verifications, versions } from './schema';

/** All that is worked out of rules and mail, and can be worked out again. */
const WORKED_OUT = [atoms, knowledge, analyses, answers, verifications];

/**
 * Forgets what another build has worked out: where that was wrong, no proof and no verdict of it may outlive it. Which
 * build it was stands in the database as `user_version`. Nothing is forgotten where it is not known which build this is.
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

/** The digest of the sources, as the build has written it; null where nothing was built. */
function ownDigest(): string | null {
  try {
    return readFileSync([appRoot(), 'dist', 'worked-out-by'].join('/'), 'utf8');
  } catch {
    return null;
  }
}

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
