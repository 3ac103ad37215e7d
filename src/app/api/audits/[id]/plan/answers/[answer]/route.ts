import { dropExpectation } from '../../../../../../../server/changes/expectations';
import { store } from '../../../../../../../server/database/open';
import { guarded } from '../../../../../../../server/http/guarded';
import { runner } from '../../../../../../../server/lifecycle/runner';

/** Takes an answer back. */
export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/plan/answers/[answer]'>) => {
  const { id, answer } = await params;
  dropExpectation(store(), id, Number(answer));
  runner().start(id, { kind: 'plan' });
  return Response.json({});
});
