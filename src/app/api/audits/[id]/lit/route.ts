import { ruleMailView } from '../../../../../server/chain/rule-flow-view';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { litQueryShape } from '../../../../../server/http/shapes';

export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/lit'>) => {
  const { id } = await params;
  const { rule } = litQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(ruleMailView(store(), id, rule));
});
