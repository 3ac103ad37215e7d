import { z } from 'zod';
import { store } from '../../../../../../server/database/open';
import { guarded } from '../../../../../../server/http';
import { dismissReceipts } from '../../../../../../server/receipts';

type Context = { params: Promise<{ id: string; receipt: string }> };
const numberShape = z.coerce.number().int().min(0);

export const DELETE = guarded(async (_request, { params }: Context) => {
  const { id, receipt } = await params;
  dismissReceipts(store(), id, numberShape.parse(receipt));
  return Response.json({});
});
