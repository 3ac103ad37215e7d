import { store } from '../../../../../server/database/open';
import { maybePair } from '../../../../../server/findings/overlaps-view';
import { pageView } from '../../../../../server/threads/page-data';
import { OverlapMap } from '../../../../../ui/findings/OverlapMap';
import { queryOf } from '../../../../query';
import { titled } from '../../../../titled';

export const generateMetadata = titled('findings/overlaps');

export default async function OverlapsPage({ params, searchParams }: PageProps<'/audits/[id]/findings/overlaps'>) {
  const { id } = await params;
  const { a, b } = await queryOf(searchParams);
  const pair = a && b ? maybePair(store(), id, a, b) : null;
  return <OverlapMap auditId={id} view={await pageView('overlaps', id)} pair={pair} />;
}
