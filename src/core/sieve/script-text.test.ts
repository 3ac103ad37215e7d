import { expect, test } from 'vitest';
import { listing } from './diagnostics';
import { decodeScript, isXml, scriptText } from './script-text';

const octets = (...values: number[]): Uint8Array => Uint8Array.from(values);

test('UTF-8, without its byte order mark (RFC 5228 section 2.1)', () => {
  expect(decodeScript(octets(0xef, 0xbb, 0xbf, 0x6b, 0xc3, 0xa9))).toEqual({ source: 'ké', diagnostics: [] });
});

test('the first octet that is no UTF-8 is told by its place, and the rest is read', () => {
  const { source, diagnostics } = decodeScript(octets(0xc3, 0xa9, 0x0a, 0xe9, 0x3b));
  expect(source).toBe('é\n\ufffd;');
  expect(listing('f', source, diagnostics)).toEqual(['f:2:1: byte 4 is not UTF-8 text (RFC 5228 section 2.1)']);
});

test('a script in XML is told by its first characters, and one that is broken by line and column', () => {
  for (const text of ['<?xml version="1.0"?>', ' <sieve xmlns="x"/>', '<s:sieve>', '<!-- x -->'])
    expect(isXml(text)).toBe(true);
  for (const text of ['keep;', '# <sieve>', '', '<siever>']) expect(isXml(text)).toBe(false);
  const xml = '<sieve xmlns="urn:ietf:params:xml:ns:sieve"><control name="stop"/></sieve>';
  expect(scriptText(xml)).toEqual({ ok: true, source: 'stop;\n' });
  expect(scriptText('keep;')).toEqual({ ok: true, source: 'keep;' });
  expect(scriptText('<sieve>\n<x></sieve>')).toMatchObject({ ok: false, line: 2 });
});
