import { Refusal } from '../../../../../../server/audits/audits';
import { store } from '../../../../../../server/database/open';
import { maybeHanded } from '../../../../../../server/handover/handover';
import { guarded } from '../../../../../../server/http/guarded';
import { rowIdShape } from '../../../../../../server/http/shapes';

/** A script as it was exported. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/handed/[script]'>) => {
  const { id, script } = await params;
  const text = maybeHanded(store(), id, rowIdShape.parse(script));
  if (text === null) throw new Refusal('There is no such script.', 404);
  return new Response(text, {
    headers: {
      'content-type': 'application/sieve; charset=utf-8',
      'content-disposition': 'attachment; filename="rules.sieve"',
    },
  });
});
