import { Refusal } from '../../../../../server/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { wideningShape } from '../../../../../server/shapes';
import { maybeWidening } from '../../../../../server/views/examples';

/** The edits that let a rule catch more, and what they make superfluous in it. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/widening'>) => {
  const { id } = await params;
  const { rule, tests } = await readJson(request, wideningShape);
  const widening = maybeWidening(store(), id, rule, tests);
  if (!widening) throw new Refusal('There is no such rule.', 404);
  return Response.json(widening);
});
