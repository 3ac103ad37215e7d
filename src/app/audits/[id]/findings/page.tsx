import { pageView } from '../../../../server/threads/page-data';
import { Findings } from '../../../../ui/findings/Findings';
import { queryOf } from '../../../query';
import { titled } from '../../../titled';

export const generateMetadata = titled('findings');

export default async function FindingsPage({ params, searchParams }: PageProps<'/audits/[id]/findings'>) {
  const { id } = await params;
  const { finding, ...query } = await queryOf(searchParams);
  const view = await pageView('findings', id, query);
  const chosen = finding ?? view.groups[0]?.lead.key;
  const found = chosen ? await pageView('finding', id, chosen) : null;
  return <Findings auditId={id} view={view} query={query} chosen={found} />;
}
