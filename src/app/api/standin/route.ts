import { Refusal } from '../../../server/audits/audits';
import { guarded, readJson } from '../../../server/http/guarded';
import { standInFaultsShape } from '../../../server/http/shapes';
import { maybeStandIn } from '../../../server/mailbox/stand-in';

/** Sets which faults the built-in demo server shows, so that tests can look at the resulting errors. */
export const PUT = guarded(async (request) => {
  const standIn = maybeStandIn();
  if (!standIn)
    throw new Refusal('The built-in demo server is not running. Start Ysomeris with npm run demo to use it.', 404);
  standIn.faults = { ...standIn.faults, ...(await readJson(request, standInFaultsShape)) };
  return Response.json(standIn.faults);
});
