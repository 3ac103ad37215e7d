import { readsApart } from '../../../../../server/apart/reads-apart';
import { Refusal } from '../../../../../server/audits';
import { bringPath } from '../../../../../server/bring';
import { store } from '../../../../../server/database/open';
import { servesThisMachineOnly } from '../../../../../server/hosts';
import { guarded, readJson } from '../../../../../server/http';
import { runner } from '../../../../../server/server';
import { pathShape } from '../../../../../server/shapes';

/** Brings in a file or a folder of the server's own machine. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/paths'>) => {
  const { id } = await params;
  if (!servesThisMachineOnly())
    throw new Refusal('This server is open to others: paths of its machine are not read.', 403);
  const { path } = await readJson(request, pathShape);
  const brought = await bringPath(store(), runner(), id, path, { reader: readsApart });
  if (brought.kind === 'script') runner().start(id, { kind: 'simulate' });
  return Response.json(brought, { status: 201 });
});
