import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { chainView } from '../../../../server/views/chain';
import { Chain } from '../../../../ui/chain/Chain';

export const metadata: Metadata = { title: 'Chain' };

export default async function ChainPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Chain auditId={id} view={chainView(store(), id)} />;
}
