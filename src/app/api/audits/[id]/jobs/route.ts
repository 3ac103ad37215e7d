import { getAudit } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { jobShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/jobs'>) => {
  const { id } = await params;
  getAudit(store(), id);
  const { kind } = await readJson(request, jobShape);
  return Response.json({ id: runner().start(id, { kind }) }, { status: 202 });
});
