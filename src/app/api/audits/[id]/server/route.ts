import { store } from '../../../../../server/database/open';
import { askServer } from '../../../../../server/handover/mail-server';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { serverShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';
import { readsApart } from '../../../../../server/threads/page-data';

/** Runs one request against a mail server. The password is in the request only and is not stored. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/server'>) => {
  const { id } = await params;
  const { login, ...asked } = await readJson(request, serverShape);
  const answer = await askServer(store(), runner(), id, login, asked.request, readsApart);
  if (asked.request.ask === 'fetch' && !('untrusted' in answer)) runner().start(id, { kind: 'simulate' });
  return Response.json(answer);
});
