import { archiveText } from '../../../../../server/audits/archive';
import { getAudit } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';

/** Streams the whole audit as a file, with its mail if `mail` is set. */
export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/archive'>) => {
  const { id } = await params;
  getAudit(store(), id);
  const text = archiveText(store(), id, new URL(request.url).searchParams.has('mail'));
  const encoder = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    pull: (controller) => {
      const { value, done } = text.next();
      if (done) controller.close();
      else controller.enqueue(encoder.encode(value));
    },
    cancel: () => void text.return(),
  });
  return new Response(body, {
    headers: {
      'content-type': 'application/json; charset=utf-8',
      'content-disposition': 'attachment; filename="audit.json"',
    },
  });
});
