import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Bitmap } from './bitmap';

const SIZES = [1, 31, 32, 33, 200];
const sets = fc
  .tuple(fc.constantFrom(...SIZES), fc.array(fc.nat(199)), fc.array(fc.nat(199)), fc.array(fc.nat(199)))
  .map(([size, ...lists]) => {
    const within = (list: number[]) => new Set(list.filter((member) => member < size));
    return { size, a: within(lists[0]), b: within(lists[1]), c: within(lists[2]) };
  });

/** Compares bitmaps with sets. */
function agree(check: (size: number, a: Set<number>, b: Set<number>, c: Set<number>) => void): void {
  fc.assert(
    fc.property(sets, ({ size, a, b, c }) => check(size, a, b, c)),
    { numRuns: 400 },
  );
}

const members = (bitmap: Bitmap) => [...bitmap.members()];
const sorted = (set: Iterable<number>) => [...set].sort((a, b) => a - b);

describe('bitmaps are sets of messages', () => {
  test('intersection, union, difference, complement; operands stay as they were', () => {
    agree((size, a, b) => {
      const [x, y] = [Bitmap.of(size, a), Bitmap.of(size, b)];
      const all = Array.from({ length: size }, (_, at) => at);
      expect(members(x.and(y))).toEqual(sorted(a).filter((member) => b.has(member)));
      expect(members(x.or(y))).toEqual(sorted(new Set([...a, ...b])));
      expect(members(x.without(y))).toEqual(sorted(a).filter((member) => !b.has(member)));
      expect(members(x.difference(y))).toEqual(all.filter((member) => a.has(member) !== b.has(member)));
      expect(members(x.not())).toEqual(all.filter((member) => !a.has(member)));
      expect([members(x), members(y)]).toEqual([sorted(a), sorted(b)]);
    });
  });

  test('counting, looking, the first of them', () => {
    agree((size, a, b) => {
      const [x, y] = [Bitmap.of(size, a), Bitmap.of(size, b)];
      expect(x.count()).toBe(a.size);
      expect(x.isEmpty()).toBe(a.size === 0);
      expect(x.meets(y)).toBe([...a].some((member) => b.has(member)));
      expect(x.first(3)).toEqual(sorted(a).slice(0, 3));
      expect(Bitmap.full(size).count()).toBe(size);
    });
  });

  test('changes in place, at the places of a set or of a larger one', () => {
    agree((size, a, b, c) => {
      const [x, y, z] = [Bitmap.of(size, a), Bitmap.of(size, b), Bitmap.of(size, c)];
      const changed = (change: (copy: Bitmap) => void) => {
        const copy = x.copy();
        change(copy);
        return members(copy);
      };
      const both = y.or(z).places();
      for (const places of [y.places(), both]) {
        expect(changed((copy) => copy.addAll(y, places))).toEqual(members(x.or(y)));
        expect(changed((copy) => copy.removeAll(y, places))).toEqual(members(x.without(y)));
        expect(changed((copy) => copy.takeFrom(z, y, places))).toEqual(members(x.without(y).or(z.and(y))));
        expect(members(x.andAt(y, places))).toEqual(members(x.and(y)));
        expect(y.hasAny(places)).toBe(!y.isEmpty());
      }
      expect(changed((copy) => copy.keep(y))).toEqual(members(x.and(y)));
      expect(changed((copy) => copy.addEvery(y))).toEqual(members(x.or(y)));
      expect(members(x)).toEqual(sorted(a));
    });
  });

  test('bitmaps of different sizes do not mix', () => {
    expect(() => new Bitmap(3).and(new Bitmap(4))).toThrow('bitmaps of 3 and 4 messages');
  });
});
