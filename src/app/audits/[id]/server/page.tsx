import type { Metadata } from 'next';
import { standInPort } from '../../../../server/stand-in';
import { MailServer } from '../../../../ui/server/MailServer';

export const metadata: Metadata = { title: 'Server' };

export default async function ServerPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <MailServer auditId={id} standIn={standInPort()} />;
}
