import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http';
import { litQueryShape } from '../../../../../server/shapes';
import { historyView } from '../../../../../server/views/streams';

type Context = { params: Promise<{ id: string }> };

export const GET = guarded(async (request, { params }: Context) => {
  const { id } = await params;
  const { rule } = litQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(historyView(store(), id, rule));
});
