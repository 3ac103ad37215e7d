import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { runner } from '../../../../../server/server';
import { editsShape } from '../../../../../server/shapes';
import { previewView } from '../../../../../server/views/changes';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/preview'>) => {
  const { id } = await params;
  const { edits } = await readJson(request, editsShape);
  const preview = previewView(store(), id, edits);
  const weighing = preview.comparison ? null : runner().start(id, { kind: 'weigh', edits });
  return Response.json({ ...preview, weighing });
});
