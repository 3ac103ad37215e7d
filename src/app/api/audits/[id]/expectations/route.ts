import { expectationShape } from '../../../../../files/expectation-shape';
import { keepExpectation } from '../../../../../server/changes/expectations';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';

import { runner } from '../../../../../server/lifecycle/runner';

/** Saves an expectation, and starts checking it on stored mail and for all possible messages. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/expectations'>) => {
  const { id } = await params;
  const kept = keepExpectation(store(), id, await readJson(request, expectationShape));
  runner().start(id, { kind: 'compare', before: 'draft', after: 'draft' });
  return Response.json({ id: kept }, { status: 201 });
});
