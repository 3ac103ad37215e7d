import { store } from '../../../../../../server/database/open';
import { guarded, readJson } from '../../../../../../server/http/guarded';
import { takingShape } from '../../../../../../server/http/shapes';
import { runner } from '../../../../../../server/lifecycle/runner';
import { takeSteps } from '../../../../../../server/plan/take';

/** Makes steps of the plan changes of the draft. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/plan/take'>) => {
  const { id } = await params;
  const { steps } = await readJson(request, takingShape);
  takeSteps(store(), id, steps);
  runner().start(id, { kind: 'plan' });
  return Response.json({});
});
