import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { foldAscii, fromOctetOffset, toOctets } from './fold';

const text = fc.string({ unit: 'binary', maxLength: 40 });

describe('i;ascii-casemap (RFC 4790 section 9.2)', () => {
  test('folds A to Z and nothing else', () => {
    expect(foldAscii('GRÜN Kelvin \u212A')).toBe('grÜn kelvin \u212A');
    fc.assert(
      fc.property(text, (given) => {
        const folded = foldAscii(given);
        expect(folded.length).toBe(given.length);
        expect(foldAscii(folded)).toBe(folded);
        for (const [at, character] of Array.from(given).entries()) {
          if (!/[A-Z]/.test(character)) expect(Array.from(folded)[at]).toBe(character);
        }
      }),
    );
  });
});

describe('octets of UTF-8 as characters', () => {
  test('are those that Node.js writes, and offsets lead back to the character', () => {
    fc.assert(
      fc.property(text, (given) => {
        const octets = toOctets(given);
        expect(octets).toBe(Buffer.from(given).toString('latin1'));
        let at = 0;
        for (const character of given) {
          const start = toOctets(given.slice(0, at)).length;
          expect(fromOctetOffset(given, start)).toBe(at);
          at += character.length;
        }
        expect(fromOctetOffset(given, octets.length)).toBe(given.length);
      }),
    );
  });
});
