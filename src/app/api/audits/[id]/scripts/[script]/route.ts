import { z } from 'zod';
import { store } from '../../../../../../server/database/open';
import { scriptStep } from '../../../../../../server/gather/script-sources';
import { guarded, readJson } from '../../../../../../server/http/guarded';

const stepShape = z.object({ step: z.enum(['remove', 'up', 'down']) });

/** Returns the edits that moving or removing the rules of a file would make; the chain does not change. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/scripts/[script]'>) => {
  const { id, script } = await params;
  const { step } = await readJson(request, stepShape);
  return Response.json(scriptStep(store(), id, script, step));
});
