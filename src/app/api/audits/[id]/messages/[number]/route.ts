import { z } from 'zod';
import { store } from '../../../../../../server/database/open';
import { guarded } from '../../../../../../server/http/guarded';
import { messageOctets } from '../../../../../../server/mail/download';

const numberShape = z.coerce.number().int().min(0);

/** Downloads the original octets of a message; the headers keep the browser from rendering it. */
export const GET = guarded(async (_request, { params }: RouteContext<'/api/audits/[id]/messages/[number]'>) => {
  const { id, number } = await params;
  const octets = messageOctets(store(), id, numberShape.parse(number));
  return new Response(new Uint8Array(octets), {
    headers: {
      'content-type': 'application/octet-stream',
      'content-disposition': `attachment; filename="message-${number}.eml"`,
    },
  });
});
