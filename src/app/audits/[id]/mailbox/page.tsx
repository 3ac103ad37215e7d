import { standInMailPort, standInPort } from '../../../../server/mailbox/stand-in';
import { pageView } from '../../../../server/threads/page-data';
import { Mailbox } from '../../../../ui/mailbox/Mailbox';
import { titled } from '../../../titled';

export const generateMetadata = titled('mailbox');

export default async function MailboxPage({ params, searchParams }: PageProps<'/audits/[id]/mailbox'>) {
  const { id } = await params;
  const { demo } = await searchParams;
  const [port, sievePort] = [standInMailPort(), standInPort()];
  return (
    <Mailbox
      auditId={id}
      view={await pageView('mailbox', id)}
      standIn={port === null ? null : { port, sievePort, isFilledIn: demo !== undefined }}
    />
  );
}
