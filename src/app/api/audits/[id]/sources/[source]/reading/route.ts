import { store } from '../../../../../../../server/database/open';
import { readMailAgain } from '../../../../../../../server/gather/import-file';
import { bodyOf, guarded, readFileName } from '../../../../../../../server/http/guarded';
import { runner } from '../../../../../../../server/lifecycle/runner';

/** Replaces a file by another one, or reads it again from its path if none is given. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/sources/[source]/reading'>) => {
  const { id, source } = await params;
  const body = bodyOf(request);
  const sent = body && request.headers.has('x-file-name') ? { fileName: readFileName(request), body } : null;
  return Response.json(await readMailAgain(store(), runner(), id, source, sent), { status: 201 });
});
