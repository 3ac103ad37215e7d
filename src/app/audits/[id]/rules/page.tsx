import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { getAudit } from '../../../../server/audits';
import { store } from '../../../../server/database/open';
import { SeveralRules } from '../../../../ui/rules/SeveralRules';

export const metadata: Metadata = { title: 'Several rules' };

export default async function RulesPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <SeveralRules auditId={id} view={await pageView('chain', id)} chain={getAudit(store(), id).draft} />;
}
