import { pageView } from '../../../../server/threads/page-data';
import { textOf } from '../../../../ui/common/textOf';
import { ExportFromText } from '../../../../ui/export/Export';
import { titled } from '../../../titled';

export const generateMetadata = titled('export');

export default async function ExportPage({ params }: PageProps<'/audits/[id]/export'>) {
  const { id } = await params;
  const view = await pageView('export', id);
  return <ExportFromText rules={view.rules} text={textOf({ auditId: id, view })} />;
}
