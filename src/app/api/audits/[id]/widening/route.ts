import { Refusal } from '../../../../../server/audits/audits';
import { maybeWidening } from '../../../../../server/changes/examples-view';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { wideningShape } from '../../../../../server/http/shapes';

/** Returns the edits that extend a rule, including the removal of parts that become superfluous. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/widening'>) => {
  const { id } = await params;
  const { rule, tests } = await readJson(request, wideningShape);
  const widening = maybeWidening(store(), id, rule, tests);
  if (!widening) throw new Refusal('There is no such rule.', 404);
  return Response.json(widening);
});
