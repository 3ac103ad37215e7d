import { TRIAL_OCTETS, trialView } from '../../../../../server/chain/trial-view';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { writtenShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';
import { effortOfRule, mayTakeLong } from '../../../../../server/threads/cost';
import { apart } from '../../../../../server/threads/pool';

/**
 * Checks a rule that is being edited and returns its effect; if tests must be evaluated first, the job that does so.
 */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/trial'>) => {
  const { id } = await params;
  const written = await readJson(request, writtenShape);
  const isLong = mayTakeLong(effortOfRule(written.rule), TRIAL_OCTETS);
  const trial = isLong ? await apart('trial', id, written) : trialView(store(), id, written);
  const { counted, effect } = trial;
  const weighing =
    counted && counted.length > 0 && !effect ? runner().start(id, { kind: 'weigh', edits: [...counted] }) : null;
  return Response.json({ ...trial, weighing });
});
