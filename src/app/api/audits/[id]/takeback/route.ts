import { getAudit } from '../../../../../server/audits/audits';
import { takingBack } from '../../../../../server/changes/changes';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { takeBackShape } from '../../../../../server/http/shapes';

/** Returns the edits that would undo one change, and their description. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/takeback'>) => {
  const { id } = await params;
  const { change } = await readJson(request, takeBackShape);
  return Response.json(takingBack(store(), getAudit(store(), id), change));
});
