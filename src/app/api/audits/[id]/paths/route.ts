import { Refusal } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { importPath } from '../../../../../server/gather/import-file';
import { servesThisMachineOnly } from '../../../../../server/http/addresses';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { pathShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';
import { readsApart } from '../../../../../server/threads/page-data';

/** Imports a file or a folder of the server's own machine. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/paths'>) => {
  const { id } = await params;
  if (!servesThisMachineOnly())
    throw new Refusal(
      'Paths are not read because this server accepts connections from other machines. Upload the file instead.',
      403,
    );
  const { path } = await readJson(request, pathShape);
  const brought = await importPath(store(), runner(), id, path, { reader: readsApart });
  if (brought.kind === 'script') runner().start(id, { kind: 'simulate' });
  return Response.json(brought, { status: 201 });
});
