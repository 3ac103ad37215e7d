import { setOwnAddresses } from '../../../../../server/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { runner } from '../../../../../server/server';
import { addressesShape } from '../../../../../server/shapes';

/** The user's own addresses, as they have confirmed them. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/addresses'>) => {
  const { id } = await params;
  const { addresses } = await readJson(request, addressesShape);
  const own = setOwnAddresses(store(), id, addresses);
  runner().start(id, { kind: 'simulate' });
  return Response.json({ addresses: own });
});
