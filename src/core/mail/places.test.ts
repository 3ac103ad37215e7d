import { describe, expect, test } from 'vitest';
import { readMessage } from './message';
import { isOutgoing, isSentFolder, placeOf } from './places';

describe('what a path says of the messages in a file', () => {
  test.each([
    ['Maildir/cur/1700000000.1.host:2,FS', 'INBOX', ['\\flagged', '\\seen'], true],
    ['Maildir/new/1700000000.2.host', 'INBOX', [], true],
    ['Maildir/.Archive.2020/cur/17.host:2,RS', 'Archive/2020', ['\\answered', '\\seen'], true],
    ['mail\\Suppliers\\Oak\\cur\\17;2,S', 'mail/Suppliers/Oak', ['\\seen'], true],
    ['Suppliers/Oak.mbox', 'Suppliers/Oak', [], false],
    ['inbox', 'INBOX', [], false],
    ['Suppliers/Lime.mbox/mbox', 'Suppliers/Lime', [], false],
    ['Müll/Brief.eml', 'Müll', [], true],
    ['letter.eml', 'INBOX', [], true],
    ['../../etc/passwd', 'etc/passwd', [], false],
    ['', 'INBOX', [], false],
  ])('%s', (path, folder, flags, single) => {
    expect(placeOf(path, 'INBOX')).toMatchObject({ folder, flags, single });
  });

  test('a name in a Maildir begins with the second in which the message arrived (common practice)', () => {
    expect(placeOf('cur/1700000000.1.host:2,S', 'INBOX').received).toBe(1_700_000_000_000);
    expect(placeOf('cur/17.host:2,S', 'INBOX').received).toBeNull();
    expect(placeOf('1700000000.eml', 'INBOX').received).toBeNull();
  });
});

const message = (...fields: string[]) => readMessage(new TextEncoder().encode([...fields, '', 'words', ''].join('\n')));

describe('a message is the copy that its author kept', () => {
  test('where it bears no trace of having arrived', () => {
    expect(isOutgoing(message('From: me@mill.example', 'To: ann@x.example'), null)).toBe(true);
    expect(isOutgoing(message('From: me@mill.example', 'X-Received-By: nobody'), 'INBOX')).toBe(true);
  });

  // RFC 5321 section 4.4; RFC 9228; the last two are common practice.
  test.each([
    'Received: from a.example by b.example; Thu, 1 Jan 2026 10:00:00 +0000',
    'RETURN-PATH: <me@mill.example>',
    'Return-Path: <>',
    'Delivered-To: me@mill.example',
    'X-Original-To: me@mill.example',
    'Envelope-To: me@mill.example',
  ])('and not where it says “%s”', (field) => {
    expect(isOutgoing(message('From: me@mill.example', field), 'INBOX')).toBe(false);
    expect(isOutgoing(message('From: me@mill.example', field), null)).toBe(false);
  });

  test('or in a folder of sent mail, whatever traces of submission it bears', () => {
    const submitted = message(
      'Received: from desk.example by mill.example with ESMTPSA; Thu, 1 Jan 2026 10:00:00 +0000',
    );
    expect(isOutgoing(submitted, 'Sent')).toBe(true);
    expect(isOutgoing(submitted, 'INBOX.Gesendet')).toBe(true);
    expect(isOutgoing(submitted, 'Archive/Absent')).toBe(false);
  });
});

test('folders of sent mail are told by their names', () => {
  const named = [
    'Sent',
    'Sent Messages',
    'INBOX/Sent',
    'Gesendete Objekte',
    'Éléments/Envoyés',
    'Отправленные',
    '送信済み',
  ];
  expect(named.filter((name) => !isSentFolder(name))).toEqual([]);
  expect(['INBOX', 'Presents', 'Consent', ''].filter(isSentFolder)).toEqual([]);
});
