import { getAudit } from '../../../../server/audits/audits';
import { deletion } from '../../../../server/audits/deletion';
import { store } from '../../../../server/database/open';
import { guarded } from '../../../../server/http/guarded';
import { runner } from '../../../../server/lifecycle/runner';
import { betweenOthers } from '../../../../server/threads/thread';

export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]'>) => {
  const { id } = await params;
  getAudit(store(), id);
  for (const job of runner().view(id)) runner().cancel(job.id);
  await betweenOthers(deletion(store(), id));
  return Response.json({});
});
