import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http';
import { litQueryShape } from '../../../../../server/shapes';
import { litView } from '../../../../../server/views/lit';

export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/lit'>) => {
  const { id } = await params;
  const { rule } = litQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(litView(store(), id, rule));
});
