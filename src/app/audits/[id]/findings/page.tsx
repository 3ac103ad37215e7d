import type { Metadata } from 'next';
import { pageView } from '../../../../server/apart/page-view';
import type { FindingsQuery } from '../../../../server/views/findings';
import { Findings } from '../../../../ui/findings/Findings';

export const metadata: Metadata = { title: 'Findings' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<FindingsQuery & { readonly finding?: string }>;
}

export default async function FindingsPage({ params, searchParams }: Props) {
  const { id } = await params;
  const { finding, ...query } = await searchParams;
  const view = await pageView('findings', id, query);
  const chosen = finding ?? view.groups[0]?.lead.key;
  const found = chosen ? await pageView('finding', id, chosen) : null;
  return <Findings auditId={id} view={view} query={query} chosen={found} />;
}
