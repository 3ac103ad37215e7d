import { Refusal } from '../../../server/audits/audits';
import { guarded } from '../../../server/http/guarded';

/** Requests with an address that cannot be read are sent here. */
const refuse = guarded(() => {
  throw new Refusal('This address cannot be read.');
});

export const GET = refuse;
export const POST = refuse;
export const PUT = refuse;
export const DELETE = refuse;
