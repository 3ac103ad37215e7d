import { z } from 'zod';
import { store } from '../../../../../../server/database/open';
import { guarded } from '../../../../../../server/http/guarded';
import { messageOctets } from '../../../../../../server/mail/download';

const numberShape = z.coerce.number().int().min(0);

/** A message as it came, to be kept as a file: never shown by the browser as anything. */
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
