import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http';
import { dismissReceipts } from '../../../../../server/receipts';

type Context = { params: Promise<{ id: string }> };

/** Dismisses all receipts. */
export const DELETE = guarded(async (_request, { params }: Context) => {
  const { id } = await params;
  dismissReceipts(store(), id, null);
  return Response.json({});
});
