import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { store } from '../../../../server/database/open';
import { maybeScriptView } from '../../../../server/views/script';
import { ScriptDesk } from '../../../../ui/script/ScriptDesk';

export const metadata: Metadata = { title: 'Script' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<{ rule?: string | string[] }>;
}

export default async function ScriptPage({ params, searchParams }: Props) {
  const { id } = await params;
  const { rule } = await searchParams;
  const view = maybeScriptView(store(), id, typeof rule === 'string' ? rule : null);
  if (!view) notFound();
  return <ScriptDesk key={String(rule)} auditId={id} view={view} />;
}
