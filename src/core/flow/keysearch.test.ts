import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { KeySearch } from './keysearch';

function found(keys: readonly string[], text: string): number[] {
  const hits = new Set<number>();
  new KeySearch(keys).search(text, (key) => hits.add(key));
  return [...hits].sort((a, b) => a - b);
}

describe('many keys in one pass', () => {
  test('finds those that a search for each finds', () => {
    const word = fc.string({ unit: fc.constantFrom('a', 'b', 'ü', '水'), maxLength: 5 });
    const text = fc.string({ unit: fc.constantFrom('a', 'b', 'c', 'ü', '水'), maxLength: 40 });
    fc.assert(
      fc.property(fc.array(word, { maxLength: 12 }), text, (keys, where) => {
        expect(found(keys, where)).toEqual(keys.flatMap((key, at) => (where.includes(key) ? [at] : [])));
      }),
      { numRuns: 2000 },
    );
  });

  test('keys within keys, the same key twice, and the empty key, which is everywhere', () => {
    expect(found(['he', 'she', 'his', 'hers', 'he', ''], 'ushers')).toEqual([0, 1, 3, 4, 5]);
    expect(found([''], '')).toEqual([0]);
    expect(found([], 'words')).toEqual([]);
  });
});
