import { store } from '../../../../../../server/database/open';
import { dropExpectation } from '../../../../../../server/expectations';
import { guarded } from '../../../../../../server/http';
import { rowIdShape } from '../../../../../../server/shapes';

export const DELETE = guarded(
  async (_request, { params }: RouteContext<'/api/audits/[id]/expectations/[expectation]'>) => {
    const { id, expectation } = await params;
    dropExpectation(store(), id, rowIdShape.parse(expectation));
    return Response.json({});
  },
);
