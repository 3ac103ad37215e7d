import { readFileSync } from 'node:fs';
import { appRoot, inTransaction, type OpenStore } from './open';
import { analyses, answers, atoms, knowledge, verifications } from './schema';

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
