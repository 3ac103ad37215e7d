import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { comparatorNamed, comparatorNames, DEFAULT_COMPARATOR, maybeComparator } from './comparators';

const same = (name: string, a: string, b: string) => {
  const { fold } = comparatorNamed(name);
  return fold(a) === fold(b);
};
const order = (name: string, a: string, b: string) => {
  const { fold, order: ordered } = comparatorNamed(name);
  return Math.sign(ordered(fold(a), fold(b)));
};

describe('comparators', () => {
  test('the default needs no capability; names are exact, and unknown ones are none', () => {
    expect(comparatorNamed(DEFAULT_COMPARATOR)).toMatchObject({ capability: null, substring: true });
    expect(maybeComparator('i;octet')?.capability).toBeNull();
    expect(maybeComparator('I;OCTET')).toBeNull();
    expect(() => comparatorNamed('i;unknown')).toThrow('unknown comparator i;unknown');
  });

  test('i;ascii-casemap folds the letters of US-ASCII only (RFC 4790 section 9.2)', () => {
    expect(same('i;ascii-casemap', 'OAK', 'oak')).toBe(true);
    expect(same('i;ascii-casemap', 'ÉTÉ', 'été')).toBe(false);
    // It orders as upper case, so that the marks between the two alphabets come behind the letters.
    expect(order('i;ascii-casemap', '[', 'm')).toBe(1);
    expect(order('i;ascii-casemap', 'a', 'B')).toBe(-1);
  });

  test('i;octet tells everything apart, and orders by octets of UTF-8 (RFC 4790 section 9.3)', () => {
    expect(same('i;octet', 'OAK', 'oak')).toBe(false);
    expect(order('i;octet', 'B', 'a')).toBe(-1);
    // U+FF5E is EF BD 9E in UTF-8, U+1F30A is F0 9F 8C 8A; as UTF-16 the second would come first.
    expect(order('i;octet', '\uff5e', '🌊')).toBe(-1);
  });

  test.each([
    ['10', '9', 1],
    ['007', '7', 0],
    ['7 oaks', '7', 0],
    ['oak', '99999999999999999999', 1],
    ['oak', 'elm', 0],
    ['', '-1', 0],
    ['123456789012345678901', '123456789012345678902', -1],
  ])('i;ascii-numeric on “%s” and “%s” (RFC 4790 section 9.1)', (a, b, expected) => {
    expect(order('i;ascii-numeric', a, b)).toBe(expected);
    expect(same('i;ascii-numeric', a, b)).toBe(expected === 0);
  });

  test('i;unicode-casemap folds by titlecase and full decomposition (RFC 5051 section 2)', () => {
    expect(same('i;unicode-casemap', 'ÉTÉ', 'e\u0301te\u0301')).toBe(true);
    expect(same('i;unicode-casemap', 'straße', 'STRASSE')).toBe(false);
    expect(same('i;unicode-casemap', 'ǆ', 'ǅ')).toBe(true);
    expect(same('i;unicode-casemap', 'ﬁ', 'fi')).toBe(false);
    expect(same('i;unicode-casemap', 'ᾳ', 'ᾼ')).toBe(true);
  });

  test('each orders all texts: the two ways round are opposites, what is equal is in no order', () => {
    const text = fc.string({ unit: fc.constantFrom('a', 'B', '1', '0', 'é', 'É', ' ') });
    fc.assert(
      fc.property(fc.constantFrom(...comparatorNames()), text, text, text, (name, a, b, c) => {
        expect(order(name, a, b)).toBe(-order(name, b, a) || 0);
        expect(order(name, a, b) === 0).toBe(same(name, a, b));
        if (order(name, a, b) <= 0 && order(name, b, c) <= 0) expect(order(name, a, c)).toBeLessThanOrEqual(0);
      }),
    );
  });

  test('what differs by the case of US-ASCII is equal for both casemaps', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme-ascii' }), (text) => {
        for (const name of ['i;ascii-casemap', 'i;unicode-casemap'])
          expect(same(name, text, text.toLowerCase())).toBe(true);
      }),
    );
  });
});
