import { makeChanges } from '../../../../../server/changes/changes';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { editsShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/edits'>) => {
  const { id } = await params;
  const { edits, why, words, undoes } = await readJson(request, editsShape);
  makeChanges(store(), id, [{ edits, why, words: words ?? null, undoes }]);
  runner().start(id, { kind: 'simulate' });
  return Response.json({});
});
