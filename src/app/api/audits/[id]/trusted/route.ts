import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { placeShape } from '../../../../../server/http/shapes';
import { dropTrusted } from '../../../../../server/mailbox/servers';

/** The certificate of this host and port is trusted no more. */
export const DELETE = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/trusted'>) => {
  const { id } = await params;
  dropTrusted(store(), id, await readJson(request, placeShape));
  return Response.json({});
});
