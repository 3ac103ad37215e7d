import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { InBrowser } from '../../../../ui/common/InBrowser';
import { Export } from '../../../../ui/export/Export';

export const metadata: Metadata = { title: 'Export' };

export default async function ExportPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  const view = await pageView('export', id);
  return (
    <InBrowser rows={view.rules}>
      <Export auditId={id} view={view} />
    </InBrowser>
  );
}
