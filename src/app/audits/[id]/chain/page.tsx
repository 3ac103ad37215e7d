import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import { ChainFromText } from '../../../../ui/chain/Chain';
import { textOf } from '../../../../ui/common/textOf';

export const metadata: Metadata = { title: 'Chain' };

export default async function ChainPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  const view = await pageView('chain', id);
  return <ChainFromText rules={view.rungs.length} text={textOf({ auditId: id, view })} />;
}
