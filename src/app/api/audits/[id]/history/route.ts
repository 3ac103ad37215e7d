import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http';
import { litQueryShape } from '../../../../../server/shapes';
import { historyView } from '../../../../../server/views/streams';

export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/history'>) => {
  const { id } = await params;
  const { rule } = litQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(historyView(store(), id, rule));
});
