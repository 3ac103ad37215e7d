import { store } from '../../../../../../../server/database/open';
import { removalView } from '../../../../../../../server/gather/mail-sources';
import { guarded } from '../../../../../../../server/http/guarded';

/** Returns the effect of removing a source of mail, without removing it. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sources/[source]/removal'>) => {
  const { id, source } = await params;
  return Response.json(removalView(store(), id, source));
});
