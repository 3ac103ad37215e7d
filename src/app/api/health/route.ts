import { listAudits } from '../../../server/audits/audits';
import { regionStates } from '../../../server/cache/region';
import { store } from '../../../server/database/open';
import { guarded } from '../../../server/http/guarded';

/** Whether the server can use its database, and how much memory it uses, in octets. */
export const GET = guarded(() => {
  const audits = listAudits(store()).length;
  const { rss, heapUsed, arrayBuffers } = process.memoryUsage();
  return Response.json({ audits, memory: { rss, heapUsed, arrayBuffers }, cache: regionStates() });
});
