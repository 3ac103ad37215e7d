import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { expectationsView } from '../../../../server/views/expectations';
import { Expectations } from '../../../../ui/expectations/Expectations';

export const metadata: Metadata = { title: 'Expectations' };

export default async function ExpectationsPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Expectations auditId={id} view={expectationsView(store(), id)} />;
}
