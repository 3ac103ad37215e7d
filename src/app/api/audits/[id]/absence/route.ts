import { guarded } from '../../../../../server/http/guarded';
import { absenceQueryShape } from '../../../../../server/http/shapes';
import { pageView } from '../../../../../server/threads/page-data';

export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/absence'>) => {
  const { id } = await params;
  const { number } = absenceQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(await pageView('absence', id, number));
});
