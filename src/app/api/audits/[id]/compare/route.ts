import { changesView } from '../../../../../server/changes/view';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { compareShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';

/** Starts the comparison of two chains unless its result is cached; returns the job, or null. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/compare'>) => {
  const { id } = await params;
  const { before, after } = await readJson(request, compareShape);
  const { comparison, verdict } = changesView(store(), id, before, after);
  const known = comparison !== null && verdict !== null;
  return Response.json({ comparing: known ? null : runner().start(id, { kind: 'compare', before, after }) });
});
