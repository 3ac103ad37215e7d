import { pageView } from '../../../../../server/threads/page-data';
import { Health } from '../../../../../ui/findings/Health';
import { titled } from '../../../../titled';

export const generateMetadata = titled('findings/health');

export default async function HealthPage({ params }: PageProps<'/audits/[id]/findings/health'>) {
  const { id } = await params;
  return <Health auditId={id} view={await pageView('health', id)} />;
}
