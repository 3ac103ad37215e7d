import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { exportView } from '../../../../server/views/export';
import { Export } from '../../../../ui/export/Export';

export const metadata: Metadata = { title: 'Export' };

export default async function ExportPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Export auditId={id} view={exportView(store(), id)} />;
}
