import { readsApart } from '../../../../../server/apart/reads-apart';
import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { askServer } from '../../../../../server/mail-server';
import { runner } from '../../../../../server/server';
import { serverShape } from '../../../../../server/shapes';

/** One conversation with a server of scripts. Its password is in the request, and nowhere else. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/server'>) => {
  const { id } = await params;
  const { login, ...asked } = await readJson(request, serverShape);
  const answer = await askServer(store(), runner(), id, login, asked.request, readsApart);
  if (asked.request.ask === 'fetch' && !('untrusted' in answer)) runner().start(id, { kind: 'simulate' });
  return Response.json(answer);
});
