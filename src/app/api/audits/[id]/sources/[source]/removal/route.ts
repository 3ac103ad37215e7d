import { store } from '../../../../../../../server/database/open';
import { removalView } from '../../../../../../../server/gather/mail-sources';
import { guarded } from '../../../../../../../server/http/guarded';

/** What would change if this source of mail was removed; nothing is. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sources/[source]/removal'>) => {
  const { id, source } = await params;
  return Response.json(removalView(store(), id, source));
});
