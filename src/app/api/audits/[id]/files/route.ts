import { Refusal } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { importFile } from '../../../../../server/gather/import-file';
import { bodyOf, guarded, readFileName } from '../../../../../server/http/guarded';
import { runner } from '../../../../../server/lifecycle/runner';
import { readsApart } from '../../../../../server/threads/page-data';

/**
 * The body is the raw file; a header holds its name, percent-encoded. The file is streamed, never held in memory whole.
 */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/files'>) => {
  const { id } = await params;
  const name = readFileName(request);
  const body = bodyOf(request);
  if (!body) throw new Refusal(`“${name}” is empty.`, 422);
  const brought = await importFile(store(), runner(), id, name, body, { reader: readsApart });
  if (brought.kind === 'script') runner().start(id, { kind: 'simulate' });
  return Response.json(brought, { status: 201 });
});
