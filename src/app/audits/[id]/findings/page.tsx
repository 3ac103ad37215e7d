import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { findingsView, findingView } from '../../../../server/views/findings';
import { Findings } from '../../../../ui/findings/Findings';

export const metadata: Metadata = { title: 'Findings' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<{ finding?: string }>;
}

export default async function FindingsPage({ params, searchParams }: Props) {
  const { id } = await params;
  const { finding } = await searchParams;
  const view = findingsView(store(), id);
  const chosen = finding ?? view.findings[0]?.key;
  return <Findings auditId={id} view={view} chosen={chosen ? findingView(store(), id, chosen) : null} />;
}
