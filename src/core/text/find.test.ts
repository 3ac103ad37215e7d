import fc from 'fast-check';
import { expect, test } from 'vitest';
import { finder } from './find';

test('finds what indexOf finds, from any place, for short and long keys', () => {
  const letters = (length: number) => fc.string({ unit: fc.constantFrom('a', 'b'), maxLength: length });
  fc.assert(
    fc.property(letters(400), fc.nat(300), fc.nat(90), fc.nat(400), letters(3), (text, at, length, from, tail) => {
      for (const key of [text.slice(at, at + length), text.slice(at, at + length) + tail]) {
        expect(finder(key)(text, from)).toBe(text.indexOf(key, from));
      }
    }),
    { numRuns: 3000 },
  );
});

test('a key that is made to be slow is found in one reading of the text', () => {
  // The platform's search takes about 15 s for these (measured).
  const text = 'a'.repeat(1_000_000);
  const key = `${'a'.repeat(5000)}b${'a'.repeat(5000)}`;
  expect(finder(key)(text)).toBe(-1);
  expect(finder(key)(`${text}${key}`)).toBe(1_000_000);
});
