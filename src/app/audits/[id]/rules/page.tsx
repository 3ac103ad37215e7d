import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { getAudit } from '../../../../server/audits';
import { store } from '../../../../server/database/open';
import { textOf } from '../../../../ui/common/textOf';
import { SeveralRulesFromText } from '../../../../ui/rules/SeveralRules';

export const metadata: Metadata = { title: 'Several rules' };

export default async function RulesPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  const view = await pageView('chain', id);
  const text = textOf({ auditId: id, view, chain: getAudit(store(), id).draft });
  return <SeveralRulesFromText rules={view.rungs.length} text={text} />;
}
