import { pageView } from '../../../../server/threads/page-data';
import { Plan } from '../../../../ui/plan/Plan';
import { queryOf } from '../../../query';
import { titled } from '../../../titled';

export const generateMetadata = titled('plan');

export default async function PlanPage({ params, searchParams }: PageProps<'/audits/[id]/plan'>) {
  const { id } = await params;
  const { step, question } = await queryOf(searchParams);
  const view = await pageView('plan', id);
  const { questions = [], made = [] } = view.plan ?? {};
  const beside = made.find(({ key }) => key === question) ?? (questions.length === 0 ? made[0] : undefined);
  const asked = questions.find(({ message }) => String(message) === question) ?? questions[0];
  const message = asked && !beside && step === undefined ? await pageView('message', id, asked.message) : null;
  const shown = message && asked ? { asked, message } : null;
  return <Plan auditId={id} view={view} step={step ?? null} question={shown} made={beside ?? null} />;
}
