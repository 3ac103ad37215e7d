import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { Refusal } from '../../../../../server/audits';
import { bringFile } from '../../../../../server/bring';
import { store } from '../../../../../server/database/open';
import { guarded } from '../../../../../server/http';
import { runner } from '../../../../../server/server';

type Context = { params: Promise<{ id: string }> };

/** The raw file is the body, its name stands percent-encoded in a header: nothing is held in memory whole. */
export const POST = guarded(async (request, { params }: Context) => {
  const { id } = await params;
  const name = readName(request.headers.get('x-file-name'));
  if (!request.body) throw new Refusal(`“${name}” is empty.`, 422);
  const body = Readable.fromWeb(request.body as ReadableStream<Uint8Array>, { signal: request.signal });
  const brought = await bringFile(store(), runner(), id, name, body);
  if (brought.kind === 'script') runner().start(id, { kind: 'simulate' });
  return Response.json(brought, { status: 201 });
});

function readName(header: string | null): string {
  try {
    const name = decodeURIComponent(header ?? '').trim();
    if (name !== '' && name.length <= 300) return name;
  } catch {
    // falls through to the refusal
  }
  throw new Refusal('The file has no usable name.');
}
