import { maybeForesight } from '../../../../../server/changes/foresight-view';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { editsShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';

/** The findings that a change would resolve and add; if they are not known yet, the job that computes them. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/foresight'>) => {
  const { id } = await params;
  const { edits } = await readJson(request, editsShape);
  const foresight = maybeForesight(store(), id, edits);
  const looking = foresight ? null : runner().start(id, { kind: 'foresee', edits });
  return Response.json({ foresight, looking });
});
