import { setWithSent } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { sentShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';

/** Sets whether sent messages run through the rules too. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/sent'>) => {
  const { id } = await params;
  const { included } = await readJson(request, sentShape);
  setWithSent(store(), id, included);
  runner().start(id, { kind: 'simulate' });
  return Response.json({ included });
});
