import { getAudit } from '../../../../server/audits';
import { store } from '../../../../server/database/open';
import { deletion } from '../../../../server/deletion';
import { guarded } from '../../../../server/http';
import { runner } from '../../../../server/server';
import { betweenOthers } from '../../../../server/steps';

export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]'>) => {
  const { id } = await params;
  getAudit(store(), id);
  for (const job of runner().view(id)) runner().cancel(job.id);
  await betweenOthers(deletion(store(), id));
  return Response.json({});
});
