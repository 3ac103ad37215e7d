import { apart } from '../../../../server/threads/pool';
import { StepsByHand } from '../../../../ui/steps/StepsByHand';
import { titled } from '../../../titled';

export const generateMetadata = titled('steps');

export default async function StepsPage({ params }: PageProps<'/audits/[id]/steps'>) {
  const { id } = await params;
  return <StepsByHand auditId={id} view={await apart('steps', id)} />;
}
