import { store } from '../../../../../server/database/open';
import { keepExpectation } from '../../../../../server/expectations';
import { guarded, readJson } from '../../../../../server/http';
import { runner } from '../../../../../server/server';
import { expectationShape } from '../../../../../server/shapes';

type Context = { params: Promise<{ id: string }> };

/** Keeps an expectation, and checks it on stored mail and for all possible messages. */
export const POST = guarded(async (request, { params }: Context) => {
  const { id } = await params;
  const kept = keepExpectation(store(), id, await readJson(request, expectationShape));
  runner().start(id, { kind: 'compare', before: 'draft', after: 'draft' });
  return Response.json({ id: kept }, { status: 201 });
});
