import { z } from 'zod';
import { store } from '../../../../../../server/database/open';
import { dismissReceipts } from '../../../../../../server/gather/uploads';
import { guarded } from '../../../../../../server/http/guarded';

const numberShape = z.coerce.number().int().min(0);

export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/receipts/[receipt]'>) => {
  const { id, receipt } = await params;
  dismissReceipts(store(), id, numberShape.parse(receipt));
  return Response.json({});
});
