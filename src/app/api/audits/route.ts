import { createAudit } from '../../../server/audits/audits';
import { store } from '../../../server/database/open';
import { guarded, readJson } from '../../../server/http/guarded';
import { auditNameShape } from '../../../server/http/shapes';

export const POST = guarded(async (request) => {
  const { name } = await readJson(request, auditNameShape);
  return Response.json({ id: createAudit(store(), name) }, { status: 201 });
});
