import { ruleMailView } from '../../../../../server/chain/flows-view';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { ruleQueryShape } from '../../../../../server/http/shapes';

export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/rule-mail'>) => {
  const { id } = await params;
  const { rule } = ruleQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(ruleMailView(store(), id, rule));
});
