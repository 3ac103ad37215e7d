import { archiveSchema } from '../../../server/audits/archive-shape';
import { Refusal } from '../../../server/audits/audits';
import { store } from '../../../server/database/open';
import { importArchive } from '../../../server/gather/import-file';
import { bodyOf, guarded } from '../../../server/http/guarded';
import { runner } from '../../../server/lifecycle/runner';

/** The schema of archives. */
export const GET = guarded(() => Response.json(archiveSchema()));

/** Makes an audit of an archive, which is the body as it is: nothing is held in memory whole. */
export const POST = guarded(async (request) => {
  const body = bodyOf(request);
  if (!body) throw new Refusal('The archive is empty.', 422);
  return Response.json({ id: await importArchive(store(), runner(), body) }, { status: 201 });
});
