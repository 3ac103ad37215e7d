import { parse } from '../../../../../core/sieve/parse';
import { writeXml } from '../../../../../core/sieve/xml';
import { store } from '../../../../../server/database/open';
import { verifiedScript } from '../../../../../server/handover/export-view';
import { keepHanded } from '../../../../../server/handover/handover';
import { guarded } from '../../../../../server/http/guarded';

/** Downloads the verified script as XML (RFC 5784); changes nothing. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/xml'>) => {
  const { id } = await params;
  return answer(verifiedScript(store(), id));
});

/** Downloads the verified script as XML and records the export. */
export const POST = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/xml'>) => {
  const { id } = await params;
  const text = verifiedScript(store(), id);
  keepHanded(store(), id, 'downloaded as XML', text);
  return answer(text);
});

function answer(text: string): Response {
  return new Response(writeXml(parse(text).script), {
    headers: {
      'content-type': 'application/xml; charset=utf-8',
      'content-disposition': 'attachment; filename="rules.xml"',
    },
  });
}
