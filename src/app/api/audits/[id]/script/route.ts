import { store } from '../../../../../server/database/open';
import { verifiedScript } from '../../../../../server/handover/export-view';
import { keepHanded } from '../../../../../server/handover/handover';
import { guarded } from '../../../../../server/http/guarded';

/** Downloads the verified script; changes nothing. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/script'>) => {
  const { id } = await params;
  return answer(verifiedScript(store(), id));
});

/** Downloads the verified script and records the export. */
export const POST = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/script'>) => {
  const { id } = await params;
  const text = verifiedScript(store(), id);
  keepHanded(store(), id, 'downloaded as a file', text);
  return answer(text);
});

function answer(text: string): Response {
  return new Response(text, {
    headers: {
      'content-type': 'application/sieve; charset=utf-8',
      'content-disposition': 'attachment; filename="rules.sieve"',
    },
  });
}
