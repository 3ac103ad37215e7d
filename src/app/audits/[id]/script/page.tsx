import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { pageView } from '../../../../server/apart/page-view';
import { textOf } from '../../../../ui/common/textOf';
import { ScriptDeskFromText } from '../../../../ui/script/ScriptDesk';

export const metadata: Metadata = { title: 'Script' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<{ rule?: string | string[] }>;
}

export default async function ScriptPage({ params, searchParams }: Props) {
  const { id } = await params;
  const { rule } = await searchParams;
  const view = await pageView('script', id, typeof rule === 'string' ? rule : null);
  if (!view) notFound();
  const text = textOf({ auditId: id, view });
  return <ScriptDeskFromText key={String(rule)} rules={view.chain.entries.length} text={text} />;
}
