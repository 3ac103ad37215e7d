import { store } from '../../../../server/database/open';
import { peopleView } from '../../../../server/mail/people-view';
import { People } from '../../../../ui/people/People';
import { titled } from '../../../titled';

export const generateMetadata = titled('people');

export default async function PeoplePage({ params }: PageProps<'/audits/[id]/people'>) {
  const { id } = await params;
  return <People auditId={id} view={peopleView(store(), id)} />;
}
