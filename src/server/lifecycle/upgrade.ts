import { finishDeletions } from '../audits/deletion';
import type { OpenStore } from '../database/open';
import { bringChainsUpToDate, forgetWorkedOut } from '../database/worked-out';
import { nameEntries } from '../gather/script-sources';

/** Runs before anyone uses a database: repairs what another process or build has left. */
export function upgradeStore(store: OpenStore): void {
  finishDeletions(store);
  bringChainsUpToDate(store);
  nameEntries(store);
  forgetWorkedOut(store);
}
