import { store } from '../../../../../server/database/open';
import { reopen, setAside } from '../../../../../server/findings/set-aside';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { asideKeyShape, asideShape } from '../../../../../server/http/shapes';

/** Sets a finding aside, with a reason. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/set-aside'>) => {
  const { id } = await params;
  const { key, reason } = await readJson(request, asideShape);
  setAside(store(), id, key, reason);
  return Response.json({});
});

/** Reopens a finding. */
export const DELETE = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/set-aside'>) => {
  const { id } = await params;
  const { key } = await readJson(request, asideKeyShape);
  reopen(store(), id, key);
  return Response.json({});
});
