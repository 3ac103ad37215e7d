import { store } from '../../../../../server/database/open';
import { renameFolder } from '../../../../../server/folders';
import { guarded, readJson } from '../../../../../server/http';
import { folderShape } from '../../../../../server/shapes';

type Context = { params: Promise<{ id: string }> };

export const POST = guarded(async (request, { params }: Context) => {
  const { id } = await params;
  const { from, to } = await readJson(request, folderShape);
  return Response.json({ messages: renameFolder(store(), id, from, to) });
});
