import { store } from '../../../../../server/database/open';
import { renameFolder } from '../../../../../server/gather/folders';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { folderShape } from '../../../../../server/http/shapes';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/folders'>) => {
  const { id } = await params;
  const { from, to } = await readJson(request, folderShape);
  return Response.json({ messages: renameFolder(store(), id, from, to) });
});
