import { apart } from '../../../../server/threads/pool';
import { LearnedSet } from '../../../../ui/examples/LearnedSet';
import { titled } from '../../../titled';

export const generateMetadata = titled('learned');

export default async function LearnedPage({ params }: PageProps<'/audits/[id]/learned'>) {
  const { id } = await params;
  return <LearnedSet auditId={id} view={await apart('learned', id)} />;
}
