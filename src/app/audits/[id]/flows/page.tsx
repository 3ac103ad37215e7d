import { maybeStreams } from '../../../../server/chain/flows-view';
import { store } from '../../../../server/database/open';
import { Flows } from '../../../../ui/flows/Flows';
import { titled } from '../../../titled';

export const generateMetadata = titled('flows');

export default async function FlowsPage({ params }: PageProps<'/audits/[id]/flows'>) {
  const { id } = await params;
  return <Flows auditId={id} view={maybeStreams(store(), id)} />;
}
