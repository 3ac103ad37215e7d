import { dropExpectation } from '../../../../../../server/changes/expectations';
import { store } from '../../../../../../server/database/open';
import { guarded } from '../../../../../../server/http/guarded';
import { rowIdShape } from '../../../../../../server/http/shapes';

export const DELETE = guarded(
  async (_request, { params }: RouteContext<'/api/audits/[id]/expectations/[expectation]'>) => {
    const { id, expectation } = await params;
    dropExpectation(store(), id, rowIdShape.parse(expectation));
    return Response.json({});
  },
);
