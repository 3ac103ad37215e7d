import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { Refusal } from '../../../../../server/audits';
import { store } from '../../../../../server/database/open';
import { chainView } from '../../../../../server/views/chain';
import { type MessageView, messageView } from '../../../../../server/views/message';
import { Message } from '../../../../../ui/message/Message';

export const metadata: Metadata = { title: 'Trace' };

export default async function MessagePage({ params }: { params: Promise<{ id: string; number: string }> }) {
  const { id, number } = await params;
  if (!/^\d{1,9}$/.test(number)) notFound();
  const view = maybeView(id, Number(number));
  if (!view) notFound();
  return <Message auditId={id} view={view} destinations={chainView(store(), id).destinations} />;
}

function maybeView(id: string, number: number): MessageView | null {
  try {
    return messageView(store(), id, number);
  } catch (error) {
    if (error instanceof Refusal) return null;
    throw error;
  }
}
