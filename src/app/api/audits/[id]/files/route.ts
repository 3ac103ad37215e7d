import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { Refusal } from '../../../../../server/audits/audits';
import { store } from '../../../../../server/database/open';
import { bringFile } from '../../../../../server/gather/import-file';
import { guarded, readFileName } from '../../../../../server/http/guarded';
import { runner } from '../../../../../server/lifecycle/runner';
import { readsApart } from '../../../../../server/threads/rules-reader';

/** The raw file is the body, its name stands percent-encoded in a header: nothing is held in memory whole. */
export const POST = guarded(async (request, { params }: RouteContext<'/api/audits/[id]/files'>) => {
  const { id } = await params;
  const name = readFileName(request);
  if (!request.body) throw new Refusal(`“${name}” is empty.`, 422);
  const body = Readable.fromWeb(request.body as ReadableStream<Uint8Array>, { signal: request.signal });
  const brought = await bringFile(store(), runner(), id, name, body, { reader: readsApart });
  if (brought.kind === 'script') runner().start(id, { kind: 'simulate' });
  return Response.json(brought, { status: 201 });
});
