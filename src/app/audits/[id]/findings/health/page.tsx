import type { Metadata } from 'next';
import { pageView } from '../../../../../server/apart/page-view';
import { Health } from '../../../../../ui/findings/Health';

export const metadata: Metadata = { title: 'The chain as a whole' };

export default async function HealthPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Health auditId={id} view={await pageView('health', id)} />;
}
