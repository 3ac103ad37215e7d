import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { textOf } from '../../../../ui/common/textOf';
import { ExportFromText } from '../../../../ui/export/Export';

export const metadata: Metadata = { title: 'Export' };

export default async function ExportPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  const view = await pageView('export', id);
  return <ExportFromText rules={view.rules} text={textOf({ auditId: id, view })} />;
}
