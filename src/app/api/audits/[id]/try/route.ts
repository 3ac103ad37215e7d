import { getAudit } from '../../../../../server/audits/audits';
import { fateLine } from '../../../../../server/chain/destinations';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { tryShape } from '../../../../../server/http/shapes';
import { madeUpView } from '../../../../../server/mail/message-view';
import { effortOf, mayTakeLong } from '../../../../../server/threads/cost';
import { apart } from '../../../../../server/threads/pool';

/** Traces a made-up message through the chain; nothing is stored. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/try'>) => {
  const { id } = await params;
  const { text } = await readJson(request, tryShape);
  const audit = getAudit(store(), id);
  const octets = Buffer.from(text);
  const isLong = mayTakeLong(effortOf(audit.draft), octets.length);
  const view = isLong ? await apart('madeUp', id, text) : madeUpView(audit, octets);
  return Response.json({ ...view, line: fateLine(view.fate) });
});
