import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Bitmap } from './bitmap';

/** In the larger ones few words have members, so that a compact bitmap holds only these. */
const SIZES = [1, 31, 32, 33, 200, 4000];
const sets = fc
  .tuple(
    fc.constantFrom(...SIZES),
    fc.array(fc.nat(3999), { maxLength: 12 }),
    fc.array(fc.nat(3999), { maxLength: 200 }),
    fc.array(fc.nat(3999), { maxLength: 12 }),
  )
  .map(([size, ...lists]) => {
    const within = (list: number[]) => new Set(list.map((member) => member % size));
    return { size, a: within(lists[0]), b: within(lists[1]), c: within(lists[2]) };
  });

type Form = (size: number, set: Set<number>) => Bitmap;
/** The forms in which a bitmap may hold the same set; some outnumber the compact one, which then has all words. */
const FORMS: Record<string, Form> = {
  words: (size, set) => Bitmap.of(size, set),
  compact: (size, set) => Bitmap.of(size, set).compact(),
  later: (size, set) => {
    const [first] = Bitmap.of(size, set).first(1);
    const series = Bitmap.of(size, set).shrunk(new Bitmap(size).compact());
    series.shrunk(Bitmap.of(size, first === undefined ? [] : [first]).compact());
    return series;
  },
};
const forms = fc.constantFrom(...Object.values(FORMS));

/** Compares bitmaps in all forms with sets. */
function agree(
  check: (size: number, all: Set<number>[], bitmaps: [Bitmap, Bitmap, Bitmap], inForm: Form) => void,
): void {
  fc.assert(
    fc.property(sets, forms, forms, forms, ({ size, a, b, c }, one, two, three) => {
      check(size, [a, b, c], [one(size, a), two(size, b), three(size, c)], one);
    }),
    { numRuns: 600 },
  );
}

const members = (bitmap: Bitmap) => [...bitmap.members()];
const sorted = (set: Iterable<number>) => [...set].sort((a, b) => a - b);
const both = (a: Set<number>, b: Set<number>) => sorted(a).filter((member) => b.has(member));
const but = (a: Set<number>, b: Set<number>) => sorted(a).filter((member) => !b.has(member));

describe('bitmaps are sets of messages, in whatever form', () => {
  test('intersection, union, difference, complement; operands stay as they were', () => {
    agree((size, [a = new Set(), b = new Set()], [x, y]) => {
      const all = Array.from({ length: size }, (_, at) => at);
      expect(members(x.and(y))).toEqual(both(a, b));
      expect(members(x.or(y))).toEqual(sorted(new Set([...a, ...b])));
      expect(members(x.without(y))).toEqual(but(a, b));
      expect(members(x.difference(y))).toEqual(all.filter((member) => a.has(member) !== b.has(member)));
      expect(members(x.not())).toEqual(all.filter((member) => !a.has(member)));
      expect(x.words).toEqual(Bitmap.of(size, a).words);
      expect([members(x), members(y)]).toEqual([sorted(a), sorted(b)]);
    });
  });

  test('counting, looking, the first of them', () => {
    agree((size, [a = new Set(), b = new Set()], [x, y]) => {
      expect(x.count()).toBe(a.size);
      expect(x.and(y).count()).toBe(both(a, b).length);
      expect(x.isEmpty()).toBe(a.size === 0);
      expect(x.meets(y)).toBe([...a].some((member) => b.has(member)));
      expect(x.first(3)).toEqual(sorted(a).slice(0, 3));
      expect([...a, ...b].map((member) => x.has(member))).toEqual([...a, ...b].map((member) => a.has(member)));
      expect(Bitmap.full(size).count()).toBe(size);
    });
  });

  test('changes in place', () => {
    agree((size, [a = new Set(), b = new Set(), c = new Set()], [x, y, z], inForm) => {
      const changed = (change: (copy: Bitmap) => void) => {
        const copy = x.copy();
        copy.count();
        change(copy);
        expect(copy.count()).toBe(members(copy).length);
        return members(copy);
      };
      expect(changed((copy) => copy.addEvery(y))).toEqual(members(x.or(y)));
      expect(changed((copy) => copy.remove(y))).toEqual(but(a, b));
      expect(changed((copy) => copy.takeFrom(z, y))).toEqual(members(x.without(y).or(z.and(y))));
      expect(changed((copy) => copy.keep(y))).toEqual(both(a, b));
      expect(changed((copy) => copy.addDifference(y, z))).toEqual(members(x.or(y.difference(z))));
      expect(changed((copy) => copy.add(size - 1))).toEqual(sorted(new Set([...a, size - 1])));
      expect(changed((copy) => copy.removeRange(0, 40))).toEqual(sorted(a).filter((member) => member >= 40));
      expect(members(x)).toEqual(sorted(a));
      if (inForm === FORMS.later && size === 4000) expect(() => inForm(size, c).add(0)).toThrow('series');
    });
  });

  test('a compact set takes less room where few words have members', () => {
    const [some, most] = [Bitmap.of(4000, [3, 999, 1000]), Bitmap.full(4000)];
    expect([some.octets, some.compact().octets]).toEqual([500, 16]);
    expect([most.octets, most.compact()]).toEqual([500, most]);
  });

  test('each set of a series that shrinks is what it was, asked in any order', () => {
    const steps = fc.array(fc.array(fc.nat(3999), { maxLength: 6 }), { maxLength: 120 });
    fc.assert(
      fc.property(steps, fc.array(fc.nat(120), { maxLength: 8 }), (removed, asked) => {
        const left = new Set(Array.from({ length: 4000 }, (_, at) => at));
        const series = [{ set: Bitmap.full(4000), is: sorted(left) }];
        for (const less of removed) {
          for (const member of less) left.delete(member);
          const last = series.at(-1)?.set ?? Bitmap.full(4000);
          series.push({ set: last.shrunk(Bitmap.of(4000, less).compact()), is: sorted(left) });
        }
        for (const { set, is } of series) expect(set.count()).toBe(is.length);
        for (const at of [...asked, 0, series.length - 1]) {
          const { set, is } = series[at % series.length] as (typeof series)[number];
          const some = Bitmap.of(4000, [0, 5, 3999]).compact();
          expect(members(some.and(set))).toEqual([0, 5, 3999].filter((member) => is.includes(member)));
          expect(members(set)).toEqual(is);
          // It can be gone on from, too.
          expect(members(set.shrunk(some))).toEqual(is.filter((member) => ![0, 5, 3999].includes(member)));
        }
        for (const { set, is } of series) expect(members(set)).toEqual(is);
      }),
      { numRuns: 25 },
    );
  });

  test('bitmaps of different sizes do not mix', () => {
    expect(() => new Bitmap(3).and(new Bitmap(4))).toThrow('bitmaps of 3 and 4 messages');
  });
});
