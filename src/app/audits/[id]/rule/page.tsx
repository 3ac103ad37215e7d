import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { store } from '../../../../server/database/open';
import { maybeRuleDesk } from '../../../../server/views/rule-desk';
import { RuleDesk } from '../../../../ui/rule/RuleDesk';

export const metadata: Metadata = { title: 'Rule' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<{ rule?: string | string[]; behind?: string | string[] }>;
}

export default async function RulePage({ params, searchParams }: Props) {
  const { id } = await params;
  const { rule, behind } = await searchParams;
  const one = (value: string | string[] | undefined) => (typeof value === 'string' ? value : null);
  const view = maybeRuleDesk(store(), id, { rule: one(rule), behind: one(behind) });
  if (!view) notFound();
  return <RuleDesk key={`${one(rule)} ${one(behind)}`} auditId={id} view={view} />;
}
