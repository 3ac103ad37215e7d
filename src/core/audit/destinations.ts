import type { Action, Rule } from '../rules/rule';
import { canonicalFolder, INBOX } from '../sieve/interpret/fate';

/**
 * The final destinations of a rule: folders without :copy, `discard`, or `reject`. Copies and marks conflict with
 * nothing.
 */
export function placesOf(rule: Rule): ReadonlySet<string> {
  const known = placesOfRules.get(rule);
  if (known) return known;
  const places = new Set<string>();
  for (const action of rule.actions) {
    if (action.action === 'discard') places.add('discard');
    if (action.action === 'fileinto' && !action.copy) places.add(`folder ${canonicalFolder(action.folder)}`);
    if (isRefusal(action)) places.add('reject');
  }
  placesOfRules.set(rule, places);
  return places;
}

const placesOfRules = new WeakMap<Rule, ReadonlySet<string>>();

const isRefusal = (action: Action): boolean => /^e?reject$/.test(action.action);

/** Whether two rules conflict: two folders, filed and discarded, filed and rejected. */
export function disagree(a: Rule, b: Rule): boolean {
  const [first, second] = [placesOf(a), placesOf(b)];
  for (const place of first) for (const other of second) if (other !== place) return true;
  return false;
}

export const discards = (rule: Rule): boolean => placesOf(rule).has('discard');
export const rejects = (rule: Rule): boolean => placesOf(rule).has('reject');

/** Folders a rule files into, except copies and the inbox. */
export function foldersOf(rule: Rule): string[] {
  return [...placesOf(rule)].flatMap((place) => {
    const folder = place.startsWith('folder ') ? place.slice('folder '.length) : INBOX;
    return folder === INBOX ? [] : [folder];
  });
}

/** Whether a rule keeps mail from the inbox: it files elsewhere, discards, rejects, or redirects without a copy. */
export function takesAway(rule: Rule): boolean {
  return (
    discards(rule) ||
    rejects(rule) ||
    foldersOf(rule).length > 0 ||
    rule.actions.some((action) => action.action === 'redirect' && !action.copy)
  );
}

/** A rule that only marks cannot lose or misplace mail, whatever the order. */
export function onlyMarks({ actions, ending }: Rule): boolean {
  return ending === 'continue' && actions.every(isMark);
}

/** Whether it sets flags, without delivering the message. */
export const isMark = ({ action }: Action): boolean => /flag$/.test(action);

/** Whether mail filed before or after it may have other flags; an action kept word for word counts as such. */
export const bearsOnFlags = ({ actions }: Rule): boolean =>
  actions.some((action) => /flag$|sieve/.test(action.action) || ('flags' in action && action.flags !== null));
