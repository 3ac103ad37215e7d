import { notFound } from 'next/navigation';
import { apart } from '../../../../../server/apart/apart';
import { effortOf, mayTakeLong } from '../../../../../server/apart/effort';
import { pageView } from '../../../../../server/apart/page-view';
import { getAudit, Refusal } from '../../../../../server/audits';
import { store } from '../../../../../server/database/open';
import { chainOutline } from '../../../../../server/views/chain';
import { type MessageView, octetsOf } from '../../../../../server/views/message';
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
