import { store } from '../../../../../server/database/open';
import { dismissReceipts } from '../../../../../server/gather/uploads';
import { guarded } from '../../../../../server/http/guarded';

/** Dismisses all receipts. */
export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/receipts'>) => {
  const { id } = await params;
  dismissReceipts(store(), id, null);
  return Response.json({});
});
