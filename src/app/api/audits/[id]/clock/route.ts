import { setClock } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { clockShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';

/** Sets the current date that rules see. */
export const PUT = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/clock'>) => {
  const { id } = await params;
  const { time } = await readJson(request, clockShape);
  setClock(store(), id, time);
  runner().start(id, { kind: 'simulate' });
  return Response.json({ time });
});
