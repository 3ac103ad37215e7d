import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { store } from '../../../../server/database/open';
import { beginningShape } from '../../../../server/shapes';
import { maybeRuleDesk } from '../../../../server/views/rule-desk';
import { RuleDesk } from '../../../../ui/rule/RuleDesk';

export const metadata: Metadata = { title: 'Rule' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<Record<string, string | string[] | undefined>>;
}

export default async function RulePage({ params, searchParams }: Props) {
  const { id } = await params;
  const query = await searchParams;
  const { rule, behind } = query;
  const beginning = beginningShape.safeParse(query).data ?? null;
  const one = (value: string | string[] | undefined) => (typeof value === 'string' ? value : null);
  const view = maybeRuleDesk(store(), id, { rule: one(rule), behind: one(behind), beginning });
  if (!view) notFound();
  return <RuleDesk key={`${one(rule)} ${one(behind)} ${one(query.tests)}`} auditId={id} view={view} />;
}
