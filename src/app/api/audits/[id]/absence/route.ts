import { pageView } from '../../../../../server/apart/page-view';
import { guarded } from '../../../../../server/http';
import { absenceQueryShape } from '../../../../../server/shapes';

export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/absence'>) => {
  const { id } = await params;
  const { number } = absenceQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(await pageView('absence', id, number));
});
