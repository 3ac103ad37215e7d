import { archiveOf } from '../../../../../server/archive';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http';

type Context = { params: Promise<{ id: string }> };

/** The whole audit but for its mail, as a file. */
export const GET = guarded(async (_request, { params }: Context) => {
  const { id } = await params;
  return new Response(`${JSON.stringify(archiveOf(store(), id), null, 1)}\n`, {
    headers: {
      'content-type': 'application/json; charset=utf-8',
      'content-disposition': 'attachment; filename="audit.json"',
    },
  });
});
