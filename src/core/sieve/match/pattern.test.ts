import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { findOctets } from './octet-pattern';
import { compilePattern, matchPattern, octetsHold } from './pattern';

/** Every place, one after the other. */
function plainly(wanted: readonly number[], octets: string, from: number, limit: number): number {
  for (let place = from; place + wanted.length <= limit; place++) {
    if (wanted.every((code, at) => code === -1 || code === octets.charCodeAt(place + at))) return place;
  }
  return -1;
}

describe('octets some of which may be any', () => {
  const octets = fc.string({ unit: fc.constantFrom('a', 'b', '\u00ff', '\0'), maxLength: 60 });
  const wanted = fc.array(fc.constantFrom(-1, 97, 98, 255, 0), { maxLength: 8 });

  test('are found where trying every place finds them', () => {
    fc.assert(
      fc.property(wanted, octets, fc.nat(10), fc.nat(70), (pattern, text, from, limit) => {
        const end = Math.min(limit, text.length);
        expect(findOctets(pattern, text, from, end)).toBe(plainly(pattern, text, from, end));
      }),
      { numRuns: 5000 },
    );
  });

  test('the same by convolution, which long runs of near misses lead to', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(-1, 97), { minLength: 500, maxLength: 900 }),
        fc.nat(3999),
        (pattern, at) => {
          // It fits nowhere but there, and nearly fits everywhere.
          const core = [...pattern, 98];
          const text = `${'a'.repeat(4000 + at + pattern.length)}b${'a'.repeat(3000)}`;
          expect(findOctets(core, text, 0, text.length)).toBe(plainly(core, text, 0, text.length));
        },
      ),
      { numRuns: 60 },
    );
  });

  test.each([
    ['only wildcards', '?'.repeat(100_000)],
    ['wildcards and a letter that is not there', `${'?'.repeat(100_000)}b`],
    ['wildcards between letters', `${'?a'.repeat(50_000)}b`],
    ['letters between wildcards', `${'a?'.repeat(50_000)}b`],
    ['a long literal', `${'a'.repeat(5000)}b${'a'.repeat(5000)}`],
  ])('a pattern that is made to be slow, on a text of a megabyte: %s', (_, pattern) => {
    const text = 'a'.repeat(1_000_000);
    expect(octetsHold(compilePattern(`*${pattern}*`), text)).toBe(/^\?+$/.test(pattern));
    expect(octetsHold(compilePattern(`*${pattern}*`), `${text}${pattern.replaceAll('?', 'a')}`)).toBe(true);
  });

  test('a pattern that is longer than the text fits nowhere, one as long as it in one way', () => {
    expect(matchPattern(compilePattern('a*b*c'), 'abc')).toEqual([
      { start: 0, end: 1 },
      { start: 1, end: 2 },
      { start: 2, end: 3 },
    ]);
    expect(matchPattern(compilePattern('aa*a'), 'aa')).toBeNull();
    expect(matchPattern(compilePattern('a*?*a'), 'aa')).toBeNull();
  });
});
