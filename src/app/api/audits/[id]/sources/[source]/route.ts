import { store } from '../../../../../../server/database/open';
import { removeSource, restoreSource } from '../../../../../../server/gather/mail-sources';
import { sourceFiles } from '../../../../../../server/gather/view';
import { guarded } from '../../../../../../server/http/guarded';
import { runner } from '../../../../../../server/lifecycle/runner';

/** What became of each file that came in with an archive or a folder. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sources/[source]'>) => {
  const { id, source } = await params;
  return Response.json(sourceFiles(store(), id, source));
});

/** Leaves its messages out, until it is put back. */
export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sources/[source]'>) => {
  const { id, source } = await params;
  removeSource(store(), id, source);
  runner().start(id, { kind: 'simulate' });
  return Response.json({ removed: true });
});

/** Puts its messages back. */
export const PUT = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sources/[source]'>) => {
  const { id, source } = await params;
  restoreSource(store(), id, source);
  runner().start(id, { kind: 'simulate' });
  return Response.json({ removed: false });
});
