import { expect, test } from 'vitest';
import { withoutStorage } from './same-message';

const said = (text: string) => Buffer.from(withoutStorage(Buffer.from(text, 'latin1'))).toString('latin1');

test('a message is the same however it was stored', () => {
  const plain = 'From: a@b.example\nSubject: oak\n beams\n\nStatus: all is well\n';
  expect(said(plain)).toBe(plain);
  expect(said(plain.replaceAll('\n', '\r\n'))).toBe(plain);
  expect(said(`Status: RO\nX-Keywords: a\n b\n\tc\n${plain}`)).toBe(plain);
  expect(
    said('From: a@b.example\r\nX-Status: A\r\nSubject: oak\r\n beams\r\nX-UID: 12\r\n\r\nStatus: all is well\r\n'),
  ).toBe(plain);
});

test('whatever else its header has makes it another one; a CR by itself is no line end', () => {
  for (const text of [
    'X-Status-Report: RO\n\nx',
    'Subject: a\rStatus: RO\n\nx\r',
    ' Status: RO\n\n',
    '\nStatus: RO\n\n',
    'Status',
    '',
    '\r',
  ])
    expect(said(text)).toBe(text);
  expect(said('Status: RO')).toBe('');
  expect(said('\r\n\r\r\n')).toBe('\n\r\n');
});
