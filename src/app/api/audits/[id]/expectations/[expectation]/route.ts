import { store } from '../../../../../../server/database/open';
import { dropExpectation } from '../../../../../../server/expectations';
import { guarded } from '../../../../../../server/http';
import { rowIdShape } from '../../../../../../server/shapes';

type Context = { params: Promise<{ id: string; expectation: string }> };

export const DELETE = guarded(async (_request, { params }: Context) => {
  const { id, expectation } = await params;
  dropExpectation(store(), id, rowIdShape.parse(expectation));
  return Response.json({});
});
