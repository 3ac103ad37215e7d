import { notFound } from 'next/navigation';
import { getAudit, Refusal } from '../../../../../server/audits/audits';
import { chainOutline } from '../../../../../server/chain/view';
import { store } from '../../../../../server/database/open';
import { type MessageView, octetsOf } from '../../../../../server/mail/message-view';
import { effortOf, mayTakeLong } from '../../../../../server/threads/cost';
import { pageView } from '../../../../../server/threads/page-data';
import { apart } from '../../../../../server/threads/pool';
import { textOf } from '../../../../../ui/common/textOf';
import { MessageFromText } from '../../../../../ui/message/Message';
import { titled } from '../../../../titled';

export const generateMetadata = titled('mail', 'Trace');

export default async function MessagePage({ params }: PageProps<'/audits/[id]/mail/[number]'>) {
  const { id, number } = await params;
  if (!/^\d{1,9}$/.test(number)) notFound();
  const view = await maybeView(id, Number(number));
  if (!view) notFound();
  const text = textOf({ auditId: id, view, destinations: chainOutline(store(), id).destinations });
  return <MessageFromText rules={view.entries.length} text={text} />;
}

async function maybeView(id: string, number: number): Promise<MessageView | null> {
  try {
    const audit = getAudit(store(), id);
    const isLong = mayTakeLong(effortOf(audit.draft), octetsOf(store(), id, number));
    return await (isLong ? apart('message', id, number) : pageView('message', id, number));
  } catch (error) {
    if (error instanceof Refusal && error.status === 404) return null;
    throw error;
  }
}
