import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { Chain } from '../../../../ui/chain/Chain';

export const metadata: Metadata = { title: 'Chain' };

export default async function ChainPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Chain auditId={id} view={await pageView('chain', id)} />;
}
