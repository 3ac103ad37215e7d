import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { changesView } from '../../../../server/views/changes';
import { Changes } from '../../../../ui/changes/Changes';

export const metadata: Metadata = { title: 'Changes' };

export default async function ChangesPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Changes auditId={id} view={changesView(store(), id)} />;
}
