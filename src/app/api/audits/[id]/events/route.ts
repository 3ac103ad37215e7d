import { getAudit } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http/guarded';
import { runner } from '../../../../../server/lifecycle/runner';

/** The jobs of an audit as server-sent events; each event is the whole list. */
export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/events'>) => {
  const { id } = await params;
  getAudit(store(), id);
  const jobs = runner();
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const encoder = new TextEncoder();
      const send = () => controller.enqueue(encoder.encode(`data: ${JSON.stringify(jobs.view(id))}\n\n`));
      const unlisten = jobs.listen(id, send);
      let open = true;
      stop = () => {
        if (!open) return;
        open = false;
        unlisten();
        try {
          controller.close();
        } catch {
          // the browser was faster
        }
      };
      request.signal.addEventListener('abort', () => stop());
      send();
    },
    cancel: () => stop(),
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-cache, no-transform' },
  });
});
