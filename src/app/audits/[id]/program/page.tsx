import { store } from '../../../../server/database/open';
import { profilesView } from '../../../../server/gather/profile-view';
import { Program } from '../../../../ui/program/Program';
import { titled } from '../../../titled';

export const generateMetadata = titled('program');

export default async function ProgramPage({ params }: PageProps<'/audits/[id]/program'>) {
  const { id } = await params;
  return <Program auditId={id} view={profilesView(store(), id)} />;
}
