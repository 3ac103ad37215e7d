import { keepVersion } from '../../../../../server/changes/versions';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { versionShape } from '../../../../../server/http/shapes';

/** Saves the draft under a name. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/versions'>) => {
  const { id } = await params;
  const { name } = await readJson(request, versionShape);
  return Response.json({ id: keepVersion(store(), id, name) }, { status: 201 });
});
