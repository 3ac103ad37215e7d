import { store } from '../../../../../../../server/database/open';
import { guarded } from '../../../../../../../server/http/guarded';
import { runner } from '../../../../../../../server/lifecycle/runner';
import { takeAnswerBack } from '../../../../../../../server/plan/take';

/** Takes an answer back, with the changes that it asked for. */
export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/plan/answers/[answer]'>) => {
  const { id, answer } = await params;
  takeAnswerBack(store(), id, Number(answer));
  runner().start(id, { kind: 'plan' });
  return Response.json({});
});
