import { originsView } from '../../../../../server/chain/flows-view';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { originsQueryShape } from '../../../../../server/http/shapes';

export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/origins'>) => {
  const { id } = await params;
  const { destination } = originsQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(originsView(store(), id, destination));
});
