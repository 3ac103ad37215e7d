import { Refusal } from '../../../server/audits/audits';
import { maybeStandIn } from '../../../server/handover/stand-in';
import { guarded, readJson } from '../../../server/http/guarded';
import { standInFaultsShape } from '../../../server/http/shapes';

/** What the stand-in server is to do wrong, to see what then is told. */
export const PUT = guarded(async (request) => {
  const standIn = maybeStandIn();
  if (!standIn) throw new Refusal('No stand-in server runs here.', 404);
  standIn.faults = { ...standIn.faults, ...(await readJson(request, standInFaultsShape)) };
  return Response.json(standIn.faults);
});
