import type { Action, Rule } from '../rules/rule';
import { canonicalFolder, INBOX } from '../sieve/interpret/fate';

/**
 * Where a rule means to put a message for good: folders without :copy, `drop`, or `refuse`. Copies and marks disagree with
 * nothing.
 */
export function placesOf(rule: Rule): ReadonlySet<string> {
  const known = placesOfRules.get(rule);
  if (known) return known;
  const places = new Set<string>();
  for (const action of rule.actions) {
    if (action.action === 'discard') places.add('drop');
    if (action.action === 'fileinto' && !action.copy) places.add(`folder ${canonicalFolder(action.folder)}`);
    if (isRefusal(action)) places.add('refuse');
  }
  placesOfRules.set(rule, places);
  return places;
}

const placesOfRules = new WeakMap<Rule, ReadonlySet<string>>();

const isRefusal = (action: Action): boolean => /^e?reject$/.test(action.action);

/** Two folders, filed and dropped, filed and refused: a message that fires both is treated in two ways at once. */
export function disagree(a: Rule, b: Rule): boolean {
  const [first, second] = [placesOf(a), placesOf(b)];
  for (const place of first) for (const other of second) if (other !== place) return true;
  return false;
}

export const drops = (rule: Rule): boolean => placesOf(rule).has('drop');
export const refuses = (rule: Rule): boolean => placesOf(rule).has('refuse');

/** Folders that a rule files into, copies aside; the inbox is none. */
export function foldersOf(rule: Rule): string[] {
  return [...placesOf(rule)].flatMap((place) => {
    const folder = place.startsWith('folder ') ? place.slice('folder '.length) : INBOX;
    return folder === INBOX ? [] : [folder];
  });
}

/** A rule that keeps mail from the inbox: it files elsewhere, drops, refuses, or sends on without a copy. */
export function takesAway(rule: Rule): boolean {
  return (
    drops(rule) ||
    refuses(rule) ||
    foldersOf(rule).length > 0 ||
    rule.actions.some((action) => action.action === 'redirect' && !action.copy)
  );
}

/** A rule that only marks loses no mail and misplaces none, whatever the order. */
export function onlyMarks({ actions, ending }: Rule): boolean {
  return ending === 'continue' && actions.every(({ action }) => /flag$/.test(action));
}
