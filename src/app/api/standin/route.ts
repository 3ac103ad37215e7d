import { Refusal } from '../../../server/audits';
import { guarded, readJson } from '../../../server/http';
import { standInFaultsShape } from '../../../server/shapes';
import { maybeStandIn } from '../../../server/stand-in';

/** What the stand-in server is to do wrong, to see what then is told. */
export const PUT = guarded(async (request) => {
  const standIn = maybeStandIn();
  if (!standIn) throw new Refusal('No stand-in server runs here.', 404);
  standIn.faults = { ...standIn.faults, ...(await readJson(request, standInFaultsShape)) };
  return Response.json(standIn.faults);
});
