import { takenTogether } from '../../../../../core/repair/together';
import { getAudit } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { togetherShape } from '../../../../../server/http/shapes';

/** Several repairs as one change, and which of them cannot be had beside the others. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/together'>) => {
  const { id } = await params;
  const { proposed } = await readJson(request, togetherShape);
  return Response.json(takenTogether(getAudit(store(), id).draft, proposed));
});
