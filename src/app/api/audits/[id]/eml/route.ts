import { store } from '../../../../../server/database/open';
import { download, guarded } from '../../../../../server/http/guarded';
import { messageQueryShape } from '../../../../../server/http/shapes';
import { messagesAsZip } from '../../../../../server/mail/download';

/** Streams the messages that match a query as an archive of .eml files. */
export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/eml'>) => {
  const { id } = await params;
  const query = messageQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return download(messagesAsZip(store(), id, query), 'messages.zip');
});
