import { makeChange } from '../../../../../server/changes';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { runner } from '../../../../../server/server';
import { editsShape } from '../../../../../server/shapes';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/edits'>) => {
  const { id } = await params;
  const { edits, why, words } = await readJson(request, editsShape);
  makeChange(store(), id, edits, why, words ?? null);
  runner().start(id, { kind: 'simulate' });
  return Response.json({});
});
