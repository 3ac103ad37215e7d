import { typedView } from '../../../../../server/chain/typed-view';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { typedShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';
import { effortOfRule, mayTakeLong } from '../../../../../server/threads/cost';
import { apart } from '../../../../../server/threads/pool';

/** What rules that are being typed would catch; if tests must be evaluated first, the job that does so. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/typed'>) => {
  const { id } = await params;
  const { rules } = await readJson(request, typedShape);
  const isLong = rules.some((rule) => mayTakeLong(effortOfRule(rule), 0));
  const view = isLong ? await apart('typed', id, rules) : typedView(store(), id, rules);
  const { rows, edits } = view;
  const weighing = edits.length > 0 && !rows ? runner().start(id, { kind: 'weigh', edits: [...edits] }) : null;
  return Response.json({ ...view, weighing });
});
