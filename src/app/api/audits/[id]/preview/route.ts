import { previewView } from '../../../../../server/changes/view';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { editsShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/preview'>) => {
  const { id } = await params;
  const { edits } = await readJson(request, editsShape);
  const preview = previewView(store(), id, edits);
  const weighing = preview.comparison ? null : runner().start(id, { kind: 'weigh', edits });
  return Response.json({ ...preview, weighing });
});
