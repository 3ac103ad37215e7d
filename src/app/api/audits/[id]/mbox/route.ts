import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { messageQueryShape } from '../../../../../server/http/shapes';
import { messagesAsMbox } from '../../../../../server/mail/download';

/** Streams the messages that match a query as an mbox. */
export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/mbox'>) => {
  const { id } = await params;
  const query = messageQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  const entries = messagesAsMbox(store(), id, query);
  const body = new ReadableStream<Uint8Array>({
    pull: (controller) => {
      const { value, done } = entries.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
    cancel: () => void entries.return(),
  });
  return new Response(body, {
    headers: {
      'content-type': 'application/octet-stream',
      'content-disposition': 'attachment; filename="messages.mbox"',
    },
  });
});
