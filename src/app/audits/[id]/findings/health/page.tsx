import { getAudit } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { pageView } from '../../../../../server/threads/page-data';
import { Health } from '../../../../../ui/findings/Health';
import { titled } from '../../../../titled';

export const generateMetadata = titled('findings/health');

export default async function HealthPage({ params }: PageProps<'/audits/[id]/findings/health'>) {
  const { id } = await params;
  const isRuled = getAudit(store(), id).draft.entries.length > 0;
  return <Health auditId={id} view={await pageView('health', id)} isRuled={isRuled} />;
}
