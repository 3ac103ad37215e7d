import { notFound } from 'next/navigation';
import { maybeRuleDesk } from '../../../../server/chain/rule-view';
import { store } from '../../../../server/database/open';
import { beginningShape } from '../../../../server/http/shapes';
import { RuleDesk } from '../../../../ui/rule/RuleDesk';
import { queryOf } from '../../../query';
import { titled } from '../../../titled';

export const generateMetadata = titled('rule');

export default async function RulePage({ params, searchParams }: PageProps<'/audits/[id]/rule'>) {
  const { id } = await params;
  const query = await queryOf(searchParams);
  const { rule, behind } = query;
  const beginning = beginningShape.safeParse(query).data ?? null;
  const view = maybeRuleDesk(store(), id, { rule: rule ?? null, behind: behind ?? null, beginning });
  if (!view) notFound();
  return <RuleDesk key={`${rule} ${behind} ${query.tests}`} auditId={id} view={view} />;
}
