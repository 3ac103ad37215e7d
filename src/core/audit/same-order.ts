import { isFurther } from '../rules/further-action-nodes';
import { type Action, type Chain, type ChainEntry, conditionOf, looksAtFlags, type Rule } from '../rules/rule';
import { isSame } from '../rules/same';
import { bearsOnFlags, onlyMarks } from './destinations';

/**
 * Whether the form of two rules tells that messages which match both are treated alike in either order, whatever the
 * rules before them and between them do. `a` and `b` are indexes of the chain, `a` the smaller.
 */
export function isSameInAnyOrder({ entries }: Chain, a: number, b: number): boolean {
  const [first, second, next] = [entries[a], entries[b], entries[b + 1]];
  if (!isAlwaysTried(first) || !isAlwaysTried(second)) return false;
  // Linked rules would be moved too.
  if (next?.kind === 'rule' && next.link === 'otherwise') return false;
  if (first.ending === 'stop') {
    if (second.ending === 'stop') return isSame(first.actions, second.actions);
    if (addsNothing(first, second) || isMarkedInVain(first, second)) return true;
  }
  return second.ending === 'continue' && second.actions.every(isDiscard) && entries.slice(a, b).every(endsElsewhere);
}

/** Tried whatever the rules before it did. */
const isAlwaysTried = (entry: ChainEntry | undefined): entry is Rule =>
  entry?.kind === 'rule' && entry.link === 'always' && !looksAtFlags(conditionOf(entry));

/** The second does nothing that the first does not do as well. */
const addsNothing = (first: Rule, second: Rule): boolean =>
  second.actions.every((one) => isDiscard(one) && first.actions.some(cancelsKeep)) ||
  (!bearsOnFlags(first) &&
    !bearsOnFlags(second) &&
    second.actions.every((one) => first.actions.some((other) => isSame(one, other))));

/** The second only marks, and the first delivers nothing, or sets its own flags before it does. */
function isMarkedInVain(first: Rule, second: Rule): boolean {
  const [action, ...more] = first.actions;
  return onlyMarks(second) && (action?.action === 'setflag' || (action?.action === 'discard' && more.length === 0));
}

/** An entry that does not stop, or after which mail that it stops is in the inbox only if it says so. */
function endsElsewhere(entry: ChainEntry): boolean {
  if (!entry.on) return true;
  if (entry.kind === 'script' || entry.actions.some(isFurther)) return false;
  return entry.ending === 'continue' || entry.actions.some(cancelsKeep);
}

const isDiscard = ({ action }: Action): boolean => action === 'discard';

/** Whether an action takes the message out of the inbox unless another one keeps it there (RFC 5228 section 2.10.2). */
const cancelsKeep = (action: Action): boolean =>
  isDiscard(action) || ((action.action === 'fileinto' || action.action === 'redirect') && !action.copy);
