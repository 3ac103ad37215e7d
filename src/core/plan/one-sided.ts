import { type Candidate, silences } from './candidates';
import { type Effect, sendsCopies } from './weigh';

/** Agreement of at least this many messages, and of hardly any against it. */
const LEAST_AGREEING = 5;
const FOR_ONE_AGAINST = 12;
/** Before a rule is silenced, or copies are sent to another address of the user's own domain, nearly all of the mail speaks for that. */
const NEARLY_ALL = 0.9;

/** Whether the user's own acts agree with a change, and it loses, leaks and hides no mail. */
export function isOneSided({
  edits,
  effect: { agree, against, moved, count },
}: Pick<Candidate, 'edits' | 'effect'>): boolean {
  if (moved.some(({ harm }) => harm !== null)) return false;
  if ((edits.some(silences) || sendsCopies({ moved })) && !isNearlyAll({ agree, count })) return false;
  return agree >= LEAST_AGREEING && against * FOR_ONE_AGAINST <= agree && agree * 3 >= count * 2;
}

/** Whether the user's own acts speak for nearly all that a change moves. */
export const isNearlyAll = ({ agree, count }: Pick<Effect, 'agree' | 'count'>): boolean => agree >= count * NEARLY_ALL;
