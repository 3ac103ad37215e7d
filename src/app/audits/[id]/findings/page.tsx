import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { findingView } from '../../../../server/views/finding';
import { type FindingsQuery, findingsView } from '../../../../server/views/findings';
import { Findings } from '../../../../ui/findings/Findings';

export const metadata: Metadata = { title: 'Findings' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<FindingsQuery & { readonly finding?: string }>;
}

export default async function FindingsPage({ params, searchParams }: Props) {
  const { id } = await params;
  const { finding, ...query } = await searchParams;
  const view = findingsView(store(), id, query);
  const chosen = finding ?? view.groups[0]?.lead.key;
  const found = chosen ? await findingView(store(), id, chosen) : null;
  return <Findings auditId={id} view={view} query={query} chosen={found} />;
}
