import { guarded, readJson } from '../../../../../server/http/guarded';
import { asideKeyShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';
import { pageView } from '../../../../../server/threads/page-data';

/** Tries the repairs of a finding, where that was not done yet: the job that does so, or null. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/repairs'>) => {
  const { id } = await params;
  const { key } = await readJson(request, asideKeyShape);
  const finding = await pageView('finding', id, key);
  const tried = !finding?.triesAll || finding.repairs.every(({ trial }) => trial !== null && trial.verdict !== null);
  return Response.json({ trying: tried ? null : runner().start(id, { kind: 'repairs', finding: key }) });
});
