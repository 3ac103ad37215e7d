import { store } from '../../../../server/database/open';
import { maybeMailServer } from '../../../../server/mailbox/servers';
import { maybeStandIn, standInPort } from '../../../../server/mailbox/stand-in';
import { MailServer } from '../../../../ui/server/MailServer';
import { titled } from '../../../titled';

export const generateMetadata = titled('server');

export default async function ServerPage({ params }: PageProps<'/audits/[id]/server'>) {
  const { id } = await params;
  const port = standInPort();
  const standIn = port === null ? null : { port, fingerprint: maybeStandIn()?.fingerprint ?? null };
  return <MailServer auditId={id} standIn={standIn} mailbox={maybeMailServer(store(), id)} />;
}
