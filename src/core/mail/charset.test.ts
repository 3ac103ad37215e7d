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
