import { getAudit, Refusal } from '../../../../../server/audits/audits';
import { undo } from '../../../../../server/changes/changes';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { runner } from '../../../../../server/lifecycle/runner';

export const POST = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/undo'>) => {
  const { id } = await params;
  getAudit(store(), id);
  if (!undo(store(), id)) throw new Refusal('There is nothing to undo.', 409);
  runner().start(id, { kind: 'simulate' });
  return Response.json({});
});
