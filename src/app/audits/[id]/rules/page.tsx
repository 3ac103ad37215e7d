import { getAudit } from '../../../../server/audits/audits';
import { store } from '../../../../server/database/open';
import { pageView } from '../../../../server/threads/page-data';
import { textOf } from '../../../../ui/common/textOf';
import { SeveralRulesFromText } from '../../../../ui/rules/SeveralRules';
import { titled } from '../../../titled';

export const generateMetadata = titled('rules');

export default async function RulesPage({ params }: PageProps<'/audits/[id]/rules'>) {
  const { id } = await params;
  const view = await pageView('chain', id);
  const text = textOf({ auditId: id, view, chain: getAudit(store(), id).draft });
  return <SeveralRulesFromText rules={view.rungs.length} text={text} />;
}
