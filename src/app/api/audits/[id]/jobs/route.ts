import { getAudit } from '../../../../../server/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { runner } from '../../../../../server/server';
import { jobShape } from '../../../../../server/shapes';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/jobs'>) => {
  const { id } = await params;
  getAudit(store(), id);
  const { kind } = await readJson(request, jobShape);
  return Response.json({ id: runner().start(id, { kind }) }, { status: 202 });
});
