import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { gatherView } from '../../../../server/views/gather';
import { Gather } from '../../../../ui/gather/Gather';

export const metadata: Metadata = { title: 'Gather' };

export default async function GatherPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Gather auditId={id} view={gatherView(store(), id)} />;
}
