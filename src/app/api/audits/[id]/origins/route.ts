import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http';
import { originsQueryShape } from '../../../../../server/shapes';
import { originsView } from '../../../../../server/views/streams';

export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/origins'>) => {
  const { id } = await params;
  const { destination } = originsQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(originsView(store(), id, destination));
});
