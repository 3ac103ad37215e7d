import { guarded } from '../../../../../server/http/guarded';
import { pageView } from '../../../../../server/threads/page-data';

/** The rules of the draft as sentences, one a line. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sentences'>) => {
  const { id } = await params;
  return new Response(await pageView('sentences', id), {
    headers: { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': 'attachment; filename="rules.txt"' },
  });
});
