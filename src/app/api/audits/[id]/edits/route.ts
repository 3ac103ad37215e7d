import { makeChange } from '../../../../../server/changes/changes';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { editsShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/edits'>) => {
  const { id } = await params;
  const { edits, why, words } = await readJson(request, editsShape);
  makeChange(store(), id, edits, why, words ?? null);
  runner().start(id, { kind: 'simulate' });
  return Response.json({});
});
