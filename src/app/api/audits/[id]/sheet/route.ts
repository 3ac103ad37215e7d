import { guarded } from '../../../../../server/http/guarded';
import { pageView } from '../../../../../server/threads/page-data';

/** The rules of the draft as a sheet (RFC 4180). */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/sheet'>) => {
  const { id } = await params;
  return new Response(await pageView('sheet', id), {
    headers: { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': 'attachment; filename="rules.csv"' },
  });
});
