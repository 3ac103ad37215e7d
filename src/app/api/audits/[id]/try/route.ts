import { apart } from '../../../../../server/apart/apart';
import { effortOf, mayTakeLong } from '../../../../../server/apart/effort';
import { getAudit } from '../../../../../server/audits';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { tryShape } from '../../../../../server/shapes';
import { fateLine } from '../../../../../server/views/destinations';
import { madeUpView } from '../../../../../server/views/message';

/** The way of a made-up message through the chain; nothing is kept. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/try'>) => {
  const { id } = await params;
  const { text } = await readJson(request, tryShape);
  const audit = getAudit(store(), id);
  const octets = Buffer.from(text);
  const isLong = mayTakeLong(effortOf(audit.draft), octets.length);
  const view = isLong ? await apart('madeUp', id, text) : madeUpView(audit, octets);
  return Response.json({ ...view, line: fateLine(view.fate) });
});
