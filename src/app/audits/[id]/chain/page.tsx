import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { ChainFromText } from '../../../../ui/chain/ChainFromText';

export const metadata: Metadata = { title: 'Chain' };

export default async function ChainPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <ChainFromText auditId={id} text={JSON.stringify(await pageView('chain', id))} />;
}
