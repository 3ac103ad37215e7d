import { store } from '../../../../../server/database/open';
import { setPlaceField } from '../../../../../server/gather/place-field';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { placeFieldShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';
import { apart } from '../../../../../server/threads/pool';

/** Header fields that seem to name the places of messages, and the chosen one. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/places'>) => {
  const { id } = await params;
  return Response.json(await apart('places', id));
});

/** Chooses the header field that names the places of messages. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/places'>) => {
  const { id } = await params;
  const { field } = await readJson(request, placeFieldShape);
  setPlaceField(store(), id, field);
  return Response.json({ field, job: runner().start(id, { kind: 'simulate' }) });
});
