import { makeChange } from '../../../../../server/changes';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { runner } from '../../../../../server/server';
import { editsShape } from '../../../../../server/shapes';

type Context = { params: Promise<{ id: string }> };

export const POST = guarded(async (request, { params }: Context) => {
  const { id } = await params;
  const { edits, why } = await readJson(request, editsShape);
  makeChange(store(), id, edits, why);
  runner().start(id, { kind: 'simulate' });
  return Response.json({});
});
