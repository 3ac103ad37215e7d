import { elementAt } from './lookup';

/** The indexes of a longest increasing subsequence; negative numbers are skipped. */
export function longestAscending(numbers: readonly number[]): Set<number> {
  /** By length: the index where the subsequence with the smallest end ends. */
  const ends: number[] = [];
  const before: number[] = [];
  numbers.forEach((number, index) => {
    if (number < 0) return;
    const at = ends.findIndex((end) => elementAt(numbers, end) >= number);
    const length = at < 0 ? ends.length : at;
    before[index] = length === 0 ? -1 : elementAt(ends, length - 1);
    ends[length] = index;
  });
  const chosen = new Set<number>();
  for (let index = ends.at(-1) ?? -1; index >= 0; index = elementAt(before, index)) chosen.add(index);
  return chosen;
}
