import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { messageQueryShape } from '../../../../../server/http/shapes';
import { messagePage } from '../../../../../server/mail/list-view';

export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/messages'>) => {
  const { id } = await params;
  const query = messageQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(messagePage(store(), id, query));
});
