import { pageView } from '../../../../server/threads/page-data';
import { ChainFromText } from '../../../../ui/chain/Chain';
import { textOf } from '../../../../ui/common/textOf';
import { titled } from '../../../titled';

export const generateMetadata = titled('chain');

export default async function ChainPage({ params }: PageProps<'/audits/[id]/chain'>) {
  const { id } = await params;
  const view = await pageView('chain', id);
  return <ChainFromText rules={view.rungs.length} text={textOf({ auditId: id, view })} />;
}
