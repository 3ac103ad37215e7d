import { guarded } from '../../../../../server/http/guarded';
import { apart } from '../../../../../server/threads/pool';

/** A way of running the rules that explains the stored mail better; null if there is none. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/program'>) => {
  const { id } = await params;
  return Response.json(await apart('program', id));
});
