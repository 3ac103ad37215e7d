import { archiveSchema, auditFromArchive } from '../../../server/archive';
import { Refusal } from '../../../server/audits';
import { store } from '../../../server/database/open';
import { guarded } from '../../../server/http';
import { runner } from '../../../server/server';

/** Octets of an archive, which holds no mail. */
const LARGEST = 64 * 1024 * 1024;

/** The schema of archives. */
export const GET = guarded(() => Response.json(archiveSchema()));

/** Makes an audit of an archive. */
export const POST = guarded(async (request) => {
  const octets = await request.arrayBuffer();
  if (octets.byteLength > LARGEST) throw new Refusal('An archive without mail is not as large as this.', 413);
  const id = auditFromArchive(store(), new TextDecoder().decode(octets));
  runner().start(id, { kind: 'simulate' });
  return Response.json({ id }, { status: 201 });
});
