import { store } from '../../../../../server/database/open';
import { keepHanded } from '../../../../../server/handing-over';
import { guarded } from '../../../../../server/http';
import { verifiedScript } from '../../../../../server/views/export';

type Context = { params: Promise<{ id: string }> };

export const GET = guarded(async (_request, { params }: Context) => {
  const { id } = await params;
  const text = verifiedScript(store(), id);
  keepHanded(store(), id, 'taken away as a file', text);
  return new Response(text, {
    headers: {
      'content-type': 'application/sieve; charset=utf-8',
      'content-disposition': 'attachment; filename="rules.sieve"',
    },
  });
});
