import { Refusal } from '../../../../../../../server/audits/audits';
import { store } from '../../../../../../../server/database/open';
import { readAgain } from '../../../../../../../server/gather/import-file';
import { bodyOf, guarded, readFileName } from '../../../../../../../server/http/guarded';
import { readsApart } from '../../../../../../../server/threads/page-data';

/** Returns the edits that would replace the rules of one file by those of another; the chain does not change. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/scripts/[script]/reading'>) => {
  const { id, script } = await params;
  const name = readFileName(request);
  const body = bodyOf(request);
  if (!body) throw new Refusal(`“${name}” is empty.`, 422);
  return Response.json(await readAgain(store(), id, script, name, body, readsApart), { status: 201 });
});
