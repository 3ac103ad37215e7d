import { store } from '../../../../../server/database/open';
import { download, guarded } from '../../../../../server/http/guarded';
import { refiledQueryShape } from '../../../../../server/http/shapes';
import { refiledMailbox } from '../../../../../server/mail/refiled-copy';

/** Streams a copy of the stored mail, filed by the chain or one rule of it. */
export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/refiled'>) => {
  const { id } = await params;
  const { form, ...scope } = refiledQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return download(refiledMailbox(store(), id, form, scope), `refiled-${form}.zip`);
});
