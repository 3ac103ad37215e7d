import { reportHtml, reportMarkdown } from '../../../../../core/handover/report';
import { guarded } from '../../../../../server/http/guarded';
import { reportQueryShape } from '../../../../../server/http/shapes';
import { pageView } from '../../../../../server/threads/page-data';

/** The report as a download: one HTML page, or Markdown. */
export const GET = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/report'>) => {
  const { id } = await params;
  const query = reportQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  const report = await pageView('report', id, query.discreet === '1');
  const [text, type, name] =
    query.form === 'html'
      ? [reportHtml(report), 'text/html', 'audit.html']
      : [reportMarkdown(report), 'text/markdown', 'audit.md'];
  return new Response(text, {
    headers: {
      'content-type': `${type}; charset=utf-8`,
      'content-disposition': `attachment; filename="${name}"`,
    },
  });
});
