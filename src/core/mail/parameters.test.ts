import { describe, expect, test } from 'vitest';
import { parseParameters } from './parameters';

const read = (text: string) => {
  const { value, parameters } = parseParameters(text);
  return [value, Object.fromEntries(parameters)];
};

describe('parameters (RFC 2045 section 5.1)', () => {
  test.each<[string, string, Record<string, string>]>([
    ['text/plain; charset=us-ascii', 'text/plain', { charset: 'us-ascii' }],
    ['text/plain; charset=us-ascii (Plain text)', 'text/plain', { charset: 'us-ascii' }],
    ['text/plain;CHARSET="UTF-8"', 'text/plain', { charset: 'UTF-8' }],
    ['multipart/mixed; boundary="a;b=\\"c\\""', 'multipart/mixed', { boundary: 'a;b="c"' }],
    ['multipart/mixed; boundary="never closed', 'multipart/mixed', { boundary: 'never closed' }],
    ['a/b; x=1; x=2', 'a/b', { x: '1' }],
    ['a/b; nothing; =x', 'a/b', {}],
    ['', '', {}],
    [';;;', '', {}],
  ])('%j', (text, value, parameters) => expect(read(text)).toEqual([value, parameters]));
});

describe('long and encoded ones (RFC 2231 sections 3 and 4; the first examples from memory)', () => {
  test.each<[string, Record<string, string>]>([
    ['a/b; URL*0="ftp://"; URL*1="cs.utk.edu/pub"', { url: 'ftp://cs.utk.edu/pub' }],
    ["a/b; title*=us-ascii'en-us'This%20is%20%2A%2A%2Afun%2A%2A%2A", { title: 'This is ***fun***' }],
    [
      "a/b; title*0*=us-ascii'en'This%20is%20even%20more%20; title*1*=%2A%2A%2Afun%2A%2A%2A%20; title*2=\"isn't it!\"",
      { title: "This is even more ***fun*** isn't it!" },
    ],
    ['a/b; n*1=second; n*0=first', { n: 'firstsecond' }],
    ["a/b; n*=iso-8859-1''Gr%FCn", { n: 'Grün' }],
    ["a/b; n*=no-such''Gr%C3%BCn", { n: 'Grün' }],
    ["a/b; n*=utf-8''broken%F", { n: 'broken%F' }],
  ])('%j', (text, parameters) => expect(read(text)[1]).toEqual(parameters));
});
