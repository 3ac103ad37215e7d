import { createAudit } from '../../../server/audits';
import { store } from '../../../server/database/open';
import { guarded, readJson } from '../../../server/http';
import { auditNameShape } from '../../../server/shapes';

export const POST = guarded(async (request) => {
  const { name } = await readJson(request, auditNameShape);
  return Response.json({ id: createAudit(store(), name) }, { status: 201 });
});
