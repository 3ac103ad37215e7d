import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { foundQueryShape } from '../../../../../server/http/shapes';
import { foundView } from '../../../../../server/mail/found-view';

/** Rules, folders, findings and messages that contain words. */
export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/found'>) => {
  const { id } = await params;
  const { words } = foundQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(foundView(store(), id, words));
});
