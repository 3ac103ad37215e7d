import { getAudit } from '../../../../../server/audits';
import { takingBack } from '../../../../../server/changes';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { takeBackShape } from '../../../../../server/shapes';

/** The edits that would take one change back, and its words. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/takeback'>) => {
  const { id } = await params;
  const { change } = await readJson(request, takeBackShape);
  return Response.json(takingBack(store(), getAudit(store(), id), change));
});
