import { Refusal } from '../../../server/audits/audits';
import { guarded } from '../../../server/http/guarded';

/** Requests with an invalid address are rewritten to this route. */
const refuse = guarded(() => {
  throw new Refusal('This address is not valid.');
});

export const GET = refuse;
export const POST = refuse;
export const PUT = refuse;
export const DELETE = refuse;
