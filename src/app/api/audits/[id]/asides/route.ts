import { store } from '../../../../../server/database/open';
import { setAside, takeUp } from '../../../../../server/findings/set-aside';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { asideKeyShape, asideShape } from '../../../../../server/http/shapes';

/** Sets a finding aside, with a reason. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/asides'>) => {
  const { id } = await params;
  const { key, reason } = await readJson(request, asideShape);
  setAside(store(), id, key, reason);
  return Response.json({});
});

/** Takes it up again. */
export const DELETE = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/asides'>) => {
  const { id } = await params;
  const { key } = await readJson(request, asideKeyShape);
  takeUp(store(), id, key);
  return Response.json({});
});
