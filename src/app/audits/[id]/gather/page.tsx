import { pageView } from '../../../../server/threads/page-data';
import { Gather } from '../../../../ui/gather/Gather';
import { titled } from '../../../titled';

export const generateMetadata = titled('gather');

export default async function GatherPage({ params }: PageProps<'/audits/[id]/gather'>) {
  const { id } = await params;
  return <Gather auditId={id} view={await pageView('gather', id)} />;
}
