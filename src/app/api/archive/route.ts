import { archiveSchema } from '../../../server/audits/archive-shape';
import { Refusal } from '../../../server/audits/audits';
import { store } from '../../../server/database/open';
import { importArchive } from '../../../server/gather/import-file';
import { bodyOf, guarded } from '../../../server/http/guarded';
import { runner } from '../../../server/lifecycle/runner';

/** Returns the JSON Schema of exported audits. */
export const GET = guarded(() => Response.json(archiveSchema()));

/** Creates an audit from an exported one. The body is the file itself and is streamed, never held in memory whole. */
export const POST = guarded(async (request) => {
  const body = bodyOf(request);
  if (!body) throw new Refusal('The archive is empty.', 422);
  return Response.json({ id: await importArchive(store(), runner(), body) }, { status: 201 });
});
