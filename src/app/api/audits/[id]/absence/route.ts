import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http';
import { absenceQueryShape } from '../../../../../server/shapes';
import { absenceView } from '../../../../../server/views/absence';

type Context = { params: Promise<{ id: string }> };

export const GET = guarded(async (request, { params }: Context) => {
  const { id } = await params;
  const { number } = absenceQueryShape.parse(Object.fromEntries(new URL(request.url).searchParams));
  return Response.json(absenceView(store(), id, number));
});
