import { guarded, readJson } from '../../../../../server/http/guarded';
import { asideKeyShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';
import { pageView } from '../../../../../server/threads/page-data';

/** Starts trying the repairs of a finding unless the results are cached; returns the job, or null. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/repairs'>) => {
  const { id } = await params;
  const { key } = await readJson(request, asideKeyShape);
  const finding = await pageView('finding', id, key);
  const tried = !finding?.triesAll || finding.repairs.every(({ trial }) => trial !== null && trial.verdict !== null);
  return Response.json({ trying: tried ? null : runner().start(id, { kind: 'repairs', finding: key }) });
});
