import { getAudit } from '../../../../../../server/audits/audits';
import { chainAt, chainName, dropVersion, editsTo } from '../../../../../../server/changes/versions';
import { store } from '../../../../../../server/database/open';
import { guarded } from '../../../../../../server/http/guarded';
import { rowIdShape } from '../../../../../../server/http/shapes';

/** Returns the edits that would restore the draft to this version, and their description. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/versions/[version]'>) => {
  const { id, version } = await params;
  const number = rowIdShape.parse(version);
  const audit = getAudit(store(), id);
  const edits = editsTo(audit, chainAt(store(), audit, number));
  return Response.json({ edits, words: `Restore ${chainName(store(), id, number)}` });
});

export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/versions/[version]'>) => {
  const { id, version } = await params;
  dropVersion(store(), id, rowIdShape.parse(version));
  return Response.json({});
});
