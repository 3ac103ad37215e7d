import { DEMO_AUDIT, listAudits } from '../server/audits/audits';
import { store } from '../server/database/open';
import { standInMailPort } from '../server/mailbox/stand-in';
import { Opening } from '../ui/opening/Opening';

export default function OpeningPage() {
  const audits = listAudits(store()).map(({ id, name, createdAt, ...row }) => {
    const messageCount = row.messageCount - row.removedCount;
    return { id, name, messageCount, createdAt, isDemo: id === DEMO_AUDIT };
  });
  return <Opening audits={audits} hasDemoServer={standInMailPort() !== null} />;
}
