import { expectationsView } from '../../../../server/changes/expectations-view';
import { store } from '../../../../server/database/open';
import { Expectations } from '../../../../ui/expectations/Expectations';
import { titled } from '../../../titled';

export const generateMetadata = titled('expectations');

export default async function ExpectationsPage({ params }: PageProps<'/audits/[id]/expectations'>) {
  const { id } = await params;
  return <Expectations auditId={id} view={expectationsView(store(), id)} />;
}
