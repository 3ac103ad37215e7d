import { store } from '../../../../server/database/open';
import { maybeMailServer } from '../../../../server/mailbox/servers';
import { standInPort } from '../../../../server/mailbox/stand-in';
import { MailServer } from '../../../../ui/server/MailServer';
import { titled } from '../../../titled';

export const generateMetadata = titled('server');

export default async function ServerPage({ params }: PageProps<'/audits/[id]/server'>) {
  const { id } = await params;
  return <MailServer auditId={id} standIn={standInPort()} mailbox={maybeMailServer(store(), id)} />;
}
