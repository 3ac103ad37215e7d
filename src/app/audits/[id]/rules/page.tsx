import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { getAudit } from '../../../../server/audits';
import { store } from '../../../../server/database/open';
import { SeveralRulesFromText } from '../../../../ui/rules/SeveralRulesFromText';

export const metadata: Metadata = { title: 'Several rules' };

export default async function RulesPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  const [view, { draft }] = [await pageView('chain', id), getAudit(store(), id)];
  return <SeveralRulesFromText auditId={id} view={JSON.stringify(view)} chain={JSON.stringify(draft)} />;
}
