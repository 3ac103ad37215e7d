import { getAudit } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { runner } from '../../../../../server/lifecycle/runner';
import { planView } from '../../../../../server/plan/view';

/** Starts working out the plan if that is needed, and nothing else is under way that could change it. */
export const POST = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/plan'>) => {
  const { id } = await params;
  getAudit(store(), id);
  const { isAwaited, ruled } = planView(store(), id);
  const job = ruled && isAwaited && !runner().isBusy(id) ? runner().start(id, { kind: 'plan' }) : null;
  return Response.json({ job });
});
