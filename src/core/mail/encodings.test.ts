import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fromBase64, fromQuotedPrintable, isWholeBase64 } from './encodings';

const octets = (text: string) => new TextEncoder().encode(text);
const quotedPrintable = (text: string) => new TextDecoder().decode(fromQuotedPrintable(octets(text)));

describe('base64 (RFC 2045 section 6.8)', () => {
  test('gives back what Node.js has encoded, whole or broken into lines, with its padding or without', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 300 }),
        fc.integer({ min: 1, max: 76 }),
        fc.boolean(),
        (bytes, width, pads) => {
          const text = Buffer.from(bytes).toString('base64');
          const lines = (pads ? text : text.replace(/=+$/, '')).replace(new RegExp(`.{${width}}`, 'g'), '$&\r\n');
          expect(Buffer.from(fromBase64(octets(lines))).equals(bytes)).toBe(true);
        },
      ),
    );
  });

  test('what is no base64 is skipped, in octets beyond US-ASCII too', () => {
    expect(Buffer.from(fromBase64(octets('d2 Vp%%cg=='))).toString()).toBe('weir');
    const noisy = Buffer.concat([Buffer.from('d2Vp'), Buffer.from([0x8c, 0x93, 0xff]), Buffer.from('cg==')]);
    expect(Buffer.from(fromBase64(noisy)).toString()).toBe('weir');
  });
});

describe('quoted-printable (RFC 2045 section 6.7)', () => {
  test.each([
    ['Gr=C3=BCn', 'Grün'],
    ['one =\nline', 'one line'],
    ['one =\r\nline', 'one line'],
    ['blanks at the end go  \t\nnext', 'blanks at the end go\nnext'],
    ['blanks at the end go  \r\nnext', 'blanks at the end go\r\nnext'],
    ['a blank that is meant=20\nnext', 'a blank that is meant\nnext'],
    ['malformed =ZZ =4 =', 'malformed =ZZ =4 ='],
    ['lower case =c3=bc', 'lower case ü'],
    ['', ''],
  ])('%j is %j', (text, decoded) => {
    // A blank that was encoded is not told from one that was not, once both are octets: only the line end counts.
    expect(quotedPrintable(text)).toBe(decoded);
  });

  test('never grows, and never throws', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom('=', '4', 'F', '\r', '\n', ' ', 'x'), maxLength: 60 }), (text) => {
        expect(fromQuotedPrintable(octets(text)).length).toBeLessThanOrEqual(text.length);
      }),
    );
  });
});

test('whole base64 is told at even and at odd places of a buffer', () => {
  const reference = (octets: readonly number[]) => {
    const text = String.fromCharCode(...octets).replace(/[ \t\r\n]/g, '');
    const [, characters = '', rest = ''] = /^([A-Za-z0-9+/]*)(.*)$/s.exec(text) ?? [];
    return /^=*$/.test(rest) && characters.length % 4 !== 1;
  };
  const octet = fc.constantFrom(...Array.from('Az09+/ \t\r\n=', (one) => one.charCodeAt(0)), 45, 200);
  fc.assert(
    fc.property(fc.array(octet, { maxLength: 40 }), fc.nat(3), (octets, start) => {
      const within = Uint8Array.from([...Array(start).fill(45), ...octets, 45]);
      expect(isWholeBase64(within.subarray(start, start + octets.length))).toBe(reference(octets));
    }),
    { numRuns: 2000 },
  );
});
