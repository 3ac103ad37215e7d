import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { probeShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';
import { keepProbe } from '../../../../../server/mail/probes';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/probes'>) => {
  const { id } = await params;
  const { name, text, expected } = await readJson(request, probeShape);
  const probe = keepProbe(store(), id, name, Buffer.from(text), expected);
  // What a probe shows is confirmed.
  runner().start(id, { kind: 'simulate' });
  return Response.json({ id: probe }, { status: 201 });
});
