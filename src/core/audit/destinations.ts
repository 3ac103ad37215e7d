import type { Rule } from '../rules/rule';
import { canonicalFolder } from '../sieve/interpret/fate';

/** Where a rule means to put a message for good: folders without :copy, or `drop`. Copies and marks disagree with nothing. */
export function placesOf(rule: Rule): Set<string> {
  const places = new Set<string>();
  for (const action of rule.actions) {
    if (action.action === 'discard') places.add('drop');
    if (action.action === 'fileinto' && !action.copy) places.add(`folder ${canonicalFolder(action.folder)}`);
  }
  return places;
}

/** Two folders, or filed and dropped: a message that fires both is treated in two ways at once. */
export function disagree(a: Rule, b: Rule): boolean {
  const [first, second] = [placesOf(a), placesOf(b)];
  return [...first].some((place) => [...second].some((other) => other !== place));
}

export function drops(rule: Rule): boolean {
  return placesOf(rule).has('drop');
}
