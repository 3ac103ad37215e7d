import { store } from '../../../../../server/database/open';
import { guarded, readJson } from '../../../../../server/http';
import { runner } from '../../../../../server/server';
import { asideKeyShape } from '../../../../../server/shapes';
import { findingView } from '../../../../../server/views/finding';

type Context = { params: Promise<{ id: string }> };

/** Tries the repairs of a finding, where that was not done yet: the job that does so, or null. */
export const POST = guarded(async (request, { params }: Context) => {
  const { id } = await params;
  const { key } = await readJson(request, asideKeyShape);
  const finding = await findingView(store(), id, key);
  const tried = !finding?.triesAll || finding.repairs.every(({ trial }) => trial !== null && trial.verdict !== null);
  return Response.json({ trying: tried ? null : runner().start(id, { kind: 'repairs', finding: key }) });
});
