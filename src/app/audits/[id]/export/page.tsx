import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { Export } from '../../../../ui/export/Export';

export const metadata: Metadata = { title: 'Export' };

export default async function ExportPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Export auditId={id} view={await pageView('export', id)} />;
}
