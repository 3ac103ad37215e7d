import { getAudit, Refusal } from '../../../../../server/audits/audits';
import { redo } from '../../../../../server/changes/changes';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { runner } from '../../../../../server/lifecycle/runner';

export const POST = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/redo'>) => {
  const { id } = await params;
  getAudit(store(), id);
  if (!redo(store(), id)) throw new Refusal('There is nothing to redo.', 409);
  runner().start(id, { kind: 'simulate' });
  return Response.json({});
});
