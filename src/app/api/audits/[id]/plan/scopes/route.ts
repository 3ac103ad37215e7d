import { guarded, readJson } from '../../../../../../server/http/guarded';
import { wantedShape } from '../../../../../../server/http/shapes';
import { pageView } from '../../../../../../server/threads/page-data';

/** The messages that an answer could speak for. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/plan/scopes'>) => {
  const { id } = await params;
  return Response.json(await pageView('scopes', id, await readJson(request, wantedShape)));
});
