import { guarded, readJson } from '../../../../../../server/http/guarded';
import { givenShape } from '../../../../../../server/http/shapes';
import { runner } from '../../../../../../server/lifecycle/runner';
import { pageView } from '../../../../../../server/threads/page-data';

/** Keeps an answer as an expectation, or returns the earlier one that it contradicts. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/plan/answers'>) => {
  const { id } = await params;
  const kept = await pageView('answer', id, await readJson(request, givenShape));
  if ('id' in kept) runner().start(id, { kind: 'plan' });
  return Response.json(kept);
});
