import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { probeShape } from '../../../../../server/http/shapes';
import { keepProbe } from '../../../../../server/mail/probes';

export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/probes'>) => {
  const { id } = await params;
  const { name, text, expected } = await readJson(request, probeShape);
  return Response.json({ id: keepProbe(store(), id, name, Buffer.from(text), expected) }, { status: 201 });
});
