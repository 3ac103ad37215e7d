import { store } from '../../../../../../server/database/open';
import { guarded } from '../../../../../../server/http/guarded';
import { rowIdShape } from '../../../../../../server/http/shapes';
import { runner } from '../../../../../../server/lifecycle/runner';
import { dropProbe, probeText } from '../../../../../../server/mail/probes';

export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/probes/[probe]'>) => {
  const { id, probe } = await params;
  return Response.json({ text: probeText(store(), id, rowIdShape.parse(probe)).toString() });
});

export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/probes/[probe]'>) => {
  const { id, probe } = await params;
  dropProbe(store(), id, rowIdShape.parse(probe));
  runner().start(id, { kind: 'simulate' });
  return Response.json({});
});
