import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { archiveSchema } from '../../../server/audits/archive-shape';
import { Refusal } from '../../../server/audits/audits';
import { store } from '../../../server/database/open';
import { bringArchive } from '../../../server/gather/import-file';
import { guarded } from '../../../server/http/guarded';
import { runner } from '../../../server/lifecycle/runner';

/** The schema of archives. */
export const GET = guarded(() => Response.json(archiveSchema()));

/** Makes an audit of an archive, which is the body as it is: nothing is held in memory whole. */
export const POST = guarded(async (request) => {
  if (!request.body) throw new Refusal('The archive is empty.', 422);
  const body = Readable.fromWeb(request.body as ReadableStream<Uint8Array>, { signal: request.signal });
  return Response.json({ id: await bringArchive(store(), runner(), body) }, { status: 201 });
});
