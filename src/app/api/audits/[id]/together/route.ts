import { takenTogether } from '../../../../../core/repair/together';
import { getAudit } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { togetherShape } from '../../../../../server/http/shapes';

/** Joins several repairs into one change, and returns those that conflict with the others. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/together'>) => {
  const { id } = await params;
  const { proposed } = await readJson(request, togetherShape);
  return Response.json(takenTogether(getAudit(store(), id).draft, proposed));
});
