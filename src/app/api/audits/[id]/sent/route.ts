import { setWithSent } from '../../../../../server/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { runner } from '../../../../../server/server';
import { sentShape } from '../../../../../server/shapes';

/** Whether messages that the user sent run through the rules too. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/sent'>) => {
  const { id } = await params;
  const { included } = await readJson(request, sentShape);
  setWithSent(store(), id, included);
  runner().start(id, { kind: 'simulate' });
  return Response.json({ included });
});
