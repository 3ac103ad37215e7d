import { store } from '../../../../../../server/database/open';
import { removeSource, restoreSource } from '../../../../../../server/gather/mail-sources';
import { sourceFiles } from '../../../../../../server/gather/view';
import { guarded } from '../../../../../../server/http/guarded';
import { runner } from '../../../../../../server/lifecycle/runner';

/** The result for each file of an archive or folder. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sources/[source]'>) => {
  const { id, source } = await params;
  return Response.json(sourceFiles(store(), id, source));
});

/** Removes a source: its messages are left out until it is restored. */
export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sources/[source]'>) => {
  const { id, source } = await params;
  removeSource(store(), id, source);
  runner().start(id, { kind: 'simulate' });
  return Response.json({ removed: true });
});

/** Restores a removed source. */
export const PUT = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sources/[source]'>) => {
  const { id, source } = await params;
  restoreSource(store(), id, source);
  runner().start(id, { kind: 'simulate' });
  return Response.json({ removed: false });
});
