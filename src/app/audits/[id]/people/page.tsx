import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { peopleView } from '../../../../server/views/people';
import { People } from '../../../../ui/people/People';

export const metadata: Metadata = { title: 'Correspondents' };

export default async function PeoplePage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <People auditId={id} view={peopleView(store(), id)} />;
}
