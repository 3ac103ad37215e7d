import { store } from '../../../../../../server/database/open';
import { guarded } from '../../../../../../server/http';
import { dropProbe, probeText } from '../../../../../../server/probes';
import { probeIdShape } from '../../../../../../server/shapes';

type Context = { params: Promise<{ id: string; probe: string }> };

export const GET = guarded(async (_request, { params }: Context) => {
  const { id, probe } = await params;
  return Response.json({ text: probeText(store(), id, probeIdShape.parse(probe)).toString() });
});

export const DELETE = guarded(async (_request, { params }: Context) => {
  const { id, probe } = await params;
  dropProbe(store(), id, probeIdShape.parse(probe));
  return Response.json({});
});
