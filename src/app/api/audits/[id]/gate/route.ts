import { store } from '../../../../../server/database/open';
import { dropOverride, overrideGate } from '../../../../../server/handover/gate';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { overrideShape } from '../../../../../server/http/shapes';

/** Lets the script be exported although something speaks against it, with a reason. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/gate'>) => {
  const { id } = await params;
  const { reason } = await readJson(request, overrideShape);
  overrideGate(store(), id, reason);
  return Response.json({});
});

/** Takes that back. */
export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/gate'>) => {
  const { id } = await params;
  dropOverride(store(), id);
  return Response.json({});
});
