import { notFound } from 'next/navigation';
import { pageView } from '../../../../server/threads/page-data';
import { textOf } from '../../../../ui/common/textOf';
import { ScriptDeskFromText } from '../../../../ui/script/ScriptDesk';
import { queryOf } from '../../../query';
import { titled } from '../../../titled';

export const generateMetadata = titled('script');

export default async function ScriptPage({ params, searchParams }: PageProps<'/audits/[id]/script'>) {
  const { id } = await params;
  const { rule } = await queryOf(searchParams);
  const view = await pageView('script', id, rule ?? null);
  if (!view) notFound();
  const text = textOf({ auditId: id, view });
  return <ScriptDeskFromText key={String(rule)} rules={view.chain.entries.length} text={text} />;
}
