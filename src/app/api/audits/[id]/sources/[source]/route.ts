import { store } from '../../../../../../server/database/open';
import { guarded } from '../../../../../../server/http';
import { sourceFiles } from '../../../../../../server/views/gather';

type Context = { params: Promise<{ id: string; source: string }> };

export const GET = guarded(async (_request, { params }: Context) => {
  const { id, source } = await params;
  return Response.json(sourceFiles(store(), id, source));
});
