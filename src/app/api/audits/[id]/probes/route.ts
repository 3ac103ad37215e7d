import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { keepProbe } from '../../../../../server/probes';
import { probeShape } from '../../../../../server/shapes';

type Context = { params: Promise<{ id: string }> };

export const POST = guarded(async (request, { params }: Context) => {
  const { id } = await params;
  const { name, text, expected } = await readJson(request, probeShape);
  return Response.json({ id: keepProbe(store(), id, name, Buffer.from(text), expected) }, { status: 201 });
});
