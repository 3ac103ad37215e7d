import { distance } from 'fastest-levenshtein';

/** The known name closest to a misspelt one, with `prefix`, if at most two letters differ; else "". */
export function nearest(found: string, known: Iterable<string>, prefix = ''): string {
  let best = '';
  let least = 3;
  for (const name of known) {
    // A larger difference in length is at least that far.
    if (Math.abs(found.length - name.length) > 2) continue;
    const letters = distance(found, name);
    if (letters < least && letters < name.length) {
      least = letters;
      best = name;
    }
  }
  return best && prefix + best;
}
