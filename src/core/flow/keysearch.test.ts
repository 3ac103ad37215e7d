import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { KeySearch } from './keysearch';

/** Through the table, and through the sparse table that many keys need. */
function found(keys: readonly string[], text: string): number[] {
  const [one, other] = [undefined, 0].map((largest) => {
    const search = new KeySearch(keys, largest);
    const hits: number[] = [];
    search.search('b', () => {});
    search.search(text, (key) => hits.push(key));
    return hits.sort((a, b) => a - b);
  });
  expect(other).toEqual(one);
  return one ?? [];
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

  test('each key is told once for a text, however often it stands there', () => {
    const keys = Array.from({ length: 2000 }, (_, length) => 'a'.repeat(length + 1));
    expect(found(keys, 'a'.repeat(100_000))).toEqual(keys.map((_, at) => at));
  });

  test('long keys of many characters take no more memory than their length asks for', () => {
    const key = (from: number) => String.fromCharCode(...Array.from({ length: 30_000 }, (_, at) => from + at));
    const keys = [key(0x100), key(0x200), 'oak', 'lime'];
    const before = process.memoryUsage().arrayBuffers;
    expect(found(keys, `oak ${key(0x100)}`)).toEqual([0, 2]);
    expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(50_000_000);
  });
});
