import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { maybeStreams } from '../../../../server/views/streams';
import { Flows } from '../../../../ui/flows/Flows';

export const metadata: Metadata = { title: 'Where mail goes' };

export default async function FlowsPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Flows auditId={id} view={maybeStreams(store(), id)} />;
}
