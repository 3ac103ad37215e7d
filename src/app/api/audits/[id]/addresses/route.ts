import { setOwnAddresses } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { addressesShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';

/** The user's own addresses, as they have confirmed them. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/addresses'>) => {
  const { id } = await params;
  const { addresses } = await readJson(request, addressesShape);
  const own = setOwnAddresses(store(), id, addresses);
  runner().start(id, { kind: 'simulate' });
  return Response.json({ addresses: own });
});
