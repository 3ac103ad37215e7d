import { VIEWS } from '../../views';
import { listAudits, maybeAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { gatherAhead } from '../mail/stored-mail';

/** The views that users open first. */
const LOOKS = VIEWS.filter(({ warmUp }) => warmUp).map(({ path }) => path);
/** The requests of those views. */
const ASKED = ['messages?limit=100', 'origins?destination=inbox'];

/** How often, and after how many milliseconds, a server that does not listen yet is asked again. */
const TRIES = 40;
const PAUSE = 250;

/**
 * Requests every view of the newest audit from this server. Data not read since the start, and code that never ran,
 * would make the user's first look up to half a second slower.
 */
export async function warmUp(store: Store, origin: string): Promise<void> {
  const [newest] = listAudits(store);
  if (!newest) return;
  for (let tries = 0; tries < TRIES; tries++) {
    if (await answers(`${origin}/`)) break;
    await new Promise((resolve) => setTimeout(resolve, PAUSE));
  }
  const audit = maybeAudit(store, newest.id);
  if (audit) await gatherAhead(store, audit);
  for (const look of LOOKS) await answers(`${origin}/audits/${newest.id}/${look}`);
  for (const asked of ASKED) await answers(`${origin}/api/audits/${newest.id}/${asked}`);
}

/** Whether there is a response; reads it to its end. */
async function answers(address: string): Promise<boolean> {
  try {
    await (await fetch(address)).arrayBuffer();
    return true;
  } catch {
    return false;
  }
}
