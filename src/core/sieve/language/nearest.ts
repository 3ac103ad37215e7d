/** The known name closest to what was written, with `prefix`, when at most two letters are off; else "". */
export function nearest(found: string, known: Iterable<string>, prefix = ''): string {
  let best = '';
  let least = 3;
  for (const name of known) {
    const distance = editDistance(found, name);
    if (distance < least && distance < name.length) {
      least = distance;
      best = name;
    }
  }
  return best && prefix + best;
}

function editDistance(a: string, b: string): number {
  if (Math.abs(a.length - b.length) > 2) return 3;
  let row = Array.from({ length: b.length + 1 }, (_, column) => column);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      const change = (row[j - 1] as number) + (a[i - 1] === b[j - 1] ? 0 : 1);
      next.push(Math.min(change, (row[j] as number) + 1, (next[j - 1] as number) + 1));
    }
    row = next;
  }
  return row[b.length] as number;
}
