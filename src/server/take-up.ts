import type { Store } from './database/open';
import { readFilingAnew } from './database/read-anew';
import { forgetWorkedOut } from './database/worked-out';
import { finishDeletions } from './deletion';
import { nameEntries } from './script-sources';

/** What is done before anyone works with a database: what another process or another build has left in it is set right. */
export function takeUp(store: Store): void {
  finishDeletions(store);
  readFilingAnew(store);
  nameEntries(store);
  forgetWorkedOut(store);
}
