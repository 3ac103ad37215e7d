import { finishDeletions } from '../audits/deletion';
import type { OpenStore } from '../database/open';
import { bringChainsUpToDate, forgetWorkedOut } from '../database/worked-out';
import { nameEntries } from '../gather/script-sources';

/** What is done before anyone works with a database: what another process or another build has left in it is set right. */
export function upgradeStore(store: OpenStore): void {
  finishDeletions(store);
  bringChainsUpToDate(store);
  nameEntries(store);
  forgetWorkedOut(store);
}
