import { distance } from 'fastest-levenshtein';

/** The known name closest to what was written, with `prefix`, when at most two letters are off; else "". */
export function nearest(found: string, known: Iterable<string>, prefix = ''): string {
  let best = '';
  let least = 3;
  for (const name of known) {
    // What differs by more letters in length is at least as far off.
    if (Math.abs(found.length - name.length) > 2) continue;
    const letters = distance(found, name);
    if (letters < least && letters < name.length) {
      least = letters;
      best = name;
    }
  }
  return best && prefix + best;
}
