import type { Metadata } from 'next';
import { pageView } from '../../../../../server/apart/page-view';
import { store } from '../../../../../server/database/open';
import { maybePair } from '../../../../../server/views/overlaps';
import { OverlapMap } from '../../../../../ui/findings/OverlapMap';

export const metadata: Metadata = { title: 'Which rules meet' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<{ a?: string; b?: string }>;
}

export default async function OverlapsPage({ params, searchParams }: Props) {
  const { id } = await params;
  const { a, b } = await searchParams;
  const pair = a && b ? maybePair(store(), id, a, b) : null;
  return <OverlapMap auditId={id} view={await pageView('overlaps', id)} pair={pair} />;
}
