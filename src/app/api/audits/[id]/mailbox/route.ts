import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http/guarded';
import { mailboxShape } from '../../../../../server/http/shapes';
import { runner } from '../../../../../server/lifecycle/runner';
import { askMailbox, rememberedLogin } from '../../../../../server/mailbox/ask';
import { forgetMailServer } from '../../../../../server/mailbox/servers';
import { readsApart } from '../../../../../server/threads/page-data';

/** Looks at a mailbox, or starts to fetch from it. The password is in the request only and is not stored. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/mailbox'>) => {
  const { id } = await params;
  const asked = await readJson(request, mailboxShape);
  const login = 'login' in asked ? asked.login : rememberedLogin(store(), id, asked.password, asked.trusted);
  return Response.json(await askMailbox(store(), runner(), id, login, asked.request, readsApart));
});

/** The mailbox is remembered no more; its mail stays. */
export const DELETE = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/mailbox'>) => {
  const { id } = await params;
  forgetMailServer(store(), id);
  return Response.json({});
});
