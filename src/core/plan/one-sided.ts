import { type Candidate, silences } from './candidates';

/** Agreement of at least this many messages, and of hardly any against it. */
const LEAST_AGREEING = 5;
const FOR_ONE_AGAINST = 12;
/** Before a rule is silenced, nearly all of its mail speaks for that. */
const NEARLY_ALL = 0.9;

/** Whether the user's own acts agree with a change, and it loses, leaks and hides no mail. */
export function isOneSided({
  edits,
  effect: { agree, against, moved, count },
}: Pick<Candidate, 'edits' | 'effect'>): boolean {
  if (moved.some(({ harm }) => harm !== null)) return false;
  if (edits.some(silences) && agree < count * NEARLY_ALL) return false;
  return agree >= LEAST_AGREEING && against * FOR_ONE_AGAINST <= agree && agree * 2 >= count;
}
