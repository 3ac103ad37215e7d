import { describe, expect, test } from 'vitest';
import { decodeText, maybeDecode } from './charset';

const octets = (text: string) => new TextEncoder().encode(text);

describe('text of unknown encoding', () => {
  test('is UTF-8 where it is well-formed (RFC 6532), else one character for each octet; NUL is dropped', () => {
    expect(decodeText(octets('Grün 水'))).toBe('Grün 水');
    expect(decodeText(Uint8Array.from([0x47, 0x72, 0xfc, 0x6e]))).toBe('Grün');
    expect(decodeText(octets('a\0b'))).toBe('ab');
    expect(decodeText(new Uint8Array(0))).toBe('');
  });

  test('a long one is decoded in pieces, also where a character lies across two of them', () => {
    const long = `${'a'.repeat(32 * 1024 * 1024 - 1)}水${'b'.repeat(100)}`;
    expect(decodeText(octets(long)) === long).toBe(true);
    const broken = new Uint8Array(32 * 1024 * 1024 + 2).fill(0xe9);
    const read = decodeText(broken);
    expect([read.length, read[0], read[read.length - 1]]).toEqual([broken.length, 'é', 'é']);
    // A decoder that met a fault begins anew.
    expect(decodeText(octets('Grün'))).toBe('Grün');
  });
});

// Octets 80 to 9F of windows-1252, from memory of the table that the Unicode Consortium publishes (CP1252.TXT); five are none.
const HIGH = '€\ufffd‚ƒ„…†‡ˆ‰Š‹Œ\ufffdŽ\ufffd\ufffd‘’“”•–—˜™š›œ\ufffdžŸ';

describe('octets that ISO 8859-1 leaves to control characters are those of windows-1252', () => {
  const octets8 = Uint8Array.from({ length: 32 }, (_, at) => 0x80 + at);
  test.each(['windows-1252', 'iso-8859-1', 'ISO_8859-1', 'latin1', 'us-ascii', 'ascii'])('in %s', (charset) => {
    expect(maybeDecode(octets8, charset)).toBe(HIGH);
  });
  test('and in text of unknown encoding', () => expect(decodeText(octets8)).toBe(HIGH));
});

describe('tables, held against those of Node.js where its own are those of the standards', () => {
  const upper = Uint8Array.from({ length: 96 }, (_, at) => 0xa0 + at);
  const SINGLE = [
    ...[2, 3, 4, 5, 6, 7, 8, 10, 13, 14, 15].map((part) => `iso-8859-${part}`),
    ...['koi8-r', 'koi8-u', 'windows-874', 'windows-1250', 'windows-1251', 'windows-1253', 'windows-1254'],
    ...['windows-1255', 'windows-1256', 'windows-1257', 'windows-1258', 'ibm866', 'iso-8859-9', 'tis-620'],
  ];
  /** What a table leaves open, or fills with characters for private use. */
  const isOpen = (character: string | undefined) => character === '\ufffd' || /\p{Co}/u.test(character ?? '');

  test.each(SINGLE)('%s', (charset) => {
    const [mine, theirs] = [maybeDecode(upper, charset) ?? '', new TextDecoder(charset).decode(upper)];
    expect([mine.length, theirs.length]).toEqual([96, 96]);
    const settled = Array.from(mine, (_, at) => at).filter((at) => !isOpen(mine[at]) && !isOpen(theirs[at]));
    expect(settled.length).toBeGreaterThan(40);
    for (const at of settled) expect(mine[at]).toBe(theirs[at]);
  });

  test.each([
    ['gb2312', [0xcb, 0xae, 0xb3, 0xb5], '水车'],
    ['gb18030', [0x81, 0x39, 0xee, 0x39], '\u3400'],
    ['big5', [0xa4, 0xf4, 0xa8, 0xae], '水車'],
    ['euc-jp', [0xbf, 0xe5, 0xbc, 0xd6], '水車'],
    ['iso-2022-jp', [0x1b, 0x24, 0x42, 0x3f, 0x65, 0x3c, 0x56, 0x1b, 0x28, 0x42], '水車'],
    ['euc-kr', [0xbf, 0xc0], '오'],
    ['ks_c_5601-1987', [0xbf, 0xc0], '오'],
    ['utf-16le', [0x34, 0x6c], '水'],
    ['utf-16be', [0x6c, 0x34], '水'],
    ['utf-16', [0xfe, 0xff, 0x6c, 0x34], '水'],
    ['cp850', [0x81], 'ü'],
  ])('%s', (charset, bytes, text) => expect(maybeDecode(Uint8Array.from(bytes), charset)).toBe(text));

  test.each(['base64', 'hex', 'binary', '_internal', 'constructor', '__proto__', '', 'utf-9'])(
    'what is no charset, though a library may know the name: %j',
    (name) => expect(maybeDecode(octets('YQ=='), name)).toBeNull(),
  );
});

describe('text in a named charset', () => {
  test.each([
    ['iso-8859-1', [0xe9], 'é'],
    [' UTF-8 ', [0xc3, 0xa9], 'é'],
    ['koi8-r', [0xd7], 'в'],
    ['shift_jis', [0x90, 0x85], '水'],
    ['utf-8', [0xff], '\ufffd'],
  ])('%s', (charset, bytes, text) => expect(maybeDecode(Uint8Array.from(bytes), charset)).toBe(text));

  test('one that is not known gives nothing, however many are asked for', () => {
    for (let n = 0; n < 500; n++) expect(maybeDecode(octets('x'), `no-such-${n}`)).toBeNull();
    expect(maybeDecode(octets('x'), 'us-ascii')).toBe('x');
  });
});
