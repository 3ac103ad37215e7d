import { expect, test } from 'vitest';
import { readMessage } from './message';
import { makingOddities } from './oddities';

const oddIn = (raw: string | Uint8Array) => {
  const octets = typeof raw === 'string' ? Buffer.from(raw, 'latin1') : raw;
  return makingOddities(octets, readMessage(octets));
};
const HEAD = 'From: a@b.example\r\nSubject: x\r\n';
const part = (type: string, body: string, encoding = '7bit') =>
  `${HEAD}MIME-Version: 1.0\r\nContent-Type: ${type}\r\nContent-Transfer-Encoding: ${encoding}\r\n\r\n${body}`;

test('an ordinary message is not odd', () => {
  expect(oddIn(`${HEAD}\r\ntext\r\n`)).toEqual([]);
  expect(oddIn(part('text/plain; charset=utf-8', 'text\r\n'))).toEqual([]);
  expect(oddIn('')).toEqual([]);
});

test.each([
  ['lines that end at CR alone', 'From: a@b.example\rSubject: x\r\rtext\r', 'cr-lines'],
  ['a charset that nobody knows', part('text/plain; charset=x-nobody', 'text\r\n'), 'unknown-charset'],
  ['the same in an encoded word (RFC 2047)', 'Subject: =?x-nobody?q?a?=\r\n\r\ntext\r\n', 'unknown-charset'],
  ['base64 that is cut off', part('application/pdf', 'QUJD*', 'base64'), 'damaged-base64'],
  ['very many fields', `${'X-A: b\r\n'.repeat(1500)}\r\ntext\r\n`, 'many-fields'],
])('%s', (_, raw, oddity) => expect(oddIn(raw)).toContain(oddity));

test('text in UTF-16, with its mark or without', () => {
  const words = `${HEAD}\r\nsome text that is long enough to be told\r\n`;
  expect(oddIn(Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(words, 'utf16le')]))).toContain('utf-16');
  expect(oddIn(Buffer.from(words, 'utf16le'))).toContain('utf-16');
  expect(oddIn(Buffer.from(words, 'utf16le').swap16())).toContain('utf-16');
});

test('parts within each other deeper than is read', () => {
  const deep = (depth: number): string =>
    depth === 0
      ? 'Content-Type: text/plain\r\n\r\ntext\r\n'
      : `Content-Type: multipart/mixed; boundary=b${depth}\r\n\r\n--b${depth}\r\n${deep(depth - 1)}\r\n--b${depth}--\r\n`;
  expect(oddIn(`${HEAD}MIME-Version: 1.0\r\n${deep(200)}`)).toContain('deep');
  expect(oddIn(`${HEAD}MIME-Version: 1.0\r\n${deep(3)}`)).toEqual([]);
});
