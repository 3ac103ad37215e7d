import { store } from '../../../../../../server/database/open';
import { guarded, readJson } from '../../../../../../server/http/guarded';
import { declinedShape } from '../../../../../../server/http/shapes';
import { runner } from '../../../../../../server/lifecycle/runner';
import { decline, reconsider } from '../../../../../../server/plan/said';

/** Leaves a step out of the plan, or a question. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/plan/declined'>) => {
  const { id } = await params;
  decline(store(), id, await readJson(request, declinedShape));
  runner().start(id, { kind: 'plan' });
  return Response.json({});
});

/** Proposes a step again, or asks again. */
export const DELETE = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/plan/declined'>) => {
  const { id } = await params;
  reconsider(store(), id, await readJson(request, declinedShape));
  runner().start(id, { kind: 'plan' });
  return Response.json({});
});
