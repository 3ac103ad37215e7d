import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { Gather } from '../../../../ui/gather/Gather';

export const metadata: Metadata = { title: 'Gather' };

export default async function GatherPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Gather auditId={id} view={await pageView('gather', id)} />;
}
