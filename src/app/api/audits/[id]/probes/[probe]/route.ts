import { store } from '../../../../../../server/database/open';
import { guarded } from '../../../../../../server/http';
import { dropProbe, probeText } from '../../../../../../server/probes';
import { rowIdShape } from '../../../../../../server/shapes';

export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/probes/[probe]'>) => {
  const { id, probe } = await params;
  return Response.json({ text: probeText(store(), id, rowIdShape.parse(probe)).toString() });
});

export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/probes/[probe]'>) => {
  const { id, probe } = await params;
  dropProbe(store(), id, rowIdShape.parse(probe));
  return Response.json({});
});
