import { DEMO_AUDIT, listAudits } from '../server/audits/audits';
import { maybeGlimpse } from '../server/chain/view';
import { store } from '../server/database/open';
import { standInMailPort } from '../server/mailbox/stand-in';
import { Opening } from '../ui/opening/Opening';

/** As many rungs of the sample as are seen at a glance. */
const RUNGS = 6;

export default function OpeningPage() {
  const audits = listAudits(store()).map(({ id, name, createdAt, ...row }) => {
    const messageCount = row.messageCount - row.removedCount;
    return { id, name, messageCount, createdAt, isDemo: id === DEMO_AUDIT };
  });
  const glimpse = maybeGlimpse(store(), DEMO_AUDIT, RUNGS);
  return <Opening audits={audits} glimpse={glimpse} hasDemoServer={standInMailPort() !== null} />;
}
