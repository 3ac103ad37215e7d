import { describe, expect, test } from 'vitest';
import { readMessage } from './message';
import { isSentFolder } from './places';
import { attachmentsOf } from './reading';
import { countOwnAddresses, deliveredTo, likelyOwn, listIdOf, noEvidence, receivedOf } from './summary';

const message = (text: string) => readMessage(new TextEncoder().encode(text));

describe('when a message arrived', () => {
  const at = (fromLine: string | null, text = 'Subject: x\n\n') => {
    const time = receivedOf(message(text), fromLine);
    return time === null ? null : new Date(time).toISOString();
  };

  test.each([
    ['From a@x.example Thu Jan  1 10:00:00 2026', '2026-01-01T10:00:00.000Z'],
    ['From a@x.example  Thu Jan 11 10:00 2026', '2026-01-11T10:00:00.000Z'],
    ['From a@x.example Thu Jan  1 10:00:00 +0000 2026', '2026-01-01T10:00:00.000Z'],
    ['From a@x.example', null],
    [null, null],
  ])('by the separator of its mbox, in UTC (RFC 4155): %j', (line, expected) => expect(at(line)).toBe(expected));

  test('else by the topmost Received field (RFC 5321 section 4.4)', () => {
    const received = (...dates: string[]) => `${dates.map((date) => `Received: by x.example; ${date}`).join('\n')}\n\n`;
    const [first, second] = ['Fri, 2 Jan 2026 10:00:00 +0100', 'Thu, 1 Jan 2026 10:00:00 +0000'];
    expect(at(null, received(first, second))).toBe('2026-01-02T09:00:00.000Z');
    expect(at(null, 'Received: by x.example without a date\n\n')).toBeNull();
  });
});

describe('lists and recipients', () => {
  test.each([
    ['List-Id: The Mill <Mill.x.example>', 'mill.x.example'],
    ['List-Id: mill.x.example', 'mill.x.example'],
    ['List-Id: "a <b>" <c.example>', 'c.example'],
    ['List-Id:', null],
    ['Subject: none', null],
  ])('RFC 2919: %j', (field, id) => expect(listIdOf(message(`${field}\n\n`))).toBe(id));

  test.each([
    ['Delivered-To: Me@Mill.example', 'me@mill.example'],
    ['X-Original-To: <a@x.example>\nDelivered-To: b@x.example', 'b@x.example'],
    ['Envelope-To: c@x.example', 'c@x.example'],
    ['To: d@x.example', null],
  ])('common practice: %j', (fields, address) => expect(deliveredTo(message(`${fields}\n\n`))).toBe(address));
});

describe('attachments (RFC 2183)', () => {
  const parts = (...headers: string[]) =>
    message(
      `Content-Type: multipart/mixed; boundary=b\n\n${headers.map((header) => `--b\n${header}\n\nx\n`).join('')}--b--\n`,
    );

  test('named, attached, or of another type; text to be read is none', () => {
    expect(attachmentsOf(message('Subject: x\n\nwords'))).toBe(0);
    expect(attachmentsOf(parts('Content-Type: text/plain', 'Content-Type: text/html'))).toBe(0);
    expect(attachmentsOf(parts('Content-Type: text/plain', 'Content-Type: application/pdf'))).toBe(1);
    expect(attachmentsOf(parts('Content-Type: text/plain; name=notes.txt'))).toBe(1);
    expect(attachmentsOf(parts('Content-Disposition: attachment'))).toBe(1);
    expect(attachmentsOf(parts("Content-Disposition: inline; filename*=utf-8''a.txt"))).toBe(1);
    expect(attachmentsOf(parts('Content-Disposition: inline'))).toBe(0);
  });
});

describe("which addresses are the user's own (common practice)", () => {
  const own = (...mail: readonly (readonly [folder: string, fields: string])[]) => {
    const evidence = noEvidence();
    for (const [folder, fields] of mail) countOwnAddresses(message(`${fields}\n\n`), isSentFolder(folder), evidence);
    return likelyOwn(evidence, mail.length);
  };
  const many = <T>(count: number, one: T): T[] => Array.from({ length: count }, () => one);

  test('those that mail was delivered to, even a small part of it', () => {
    expect(
      own(
        ...many(30, ['INBOX', 'Delivered-To: Me@Mill.example\nTo: list@x.example'] as const),
        ...many(3, ['INBOX', 'X-Original-To: office@mill.example'] as const),
        ['INBOX', 'Delivered-To: once@mill.example'],
      ),
    ).toEqual(['me@mill.example', 'office@mill.example']);
  });

  test('those that sent mail is from, whatever its folder is called', () => {
    expect(own(...many(3, ['Mail/Gesendet', 'From: me@mill.example\nTo: a@x.example'] as const))).toEqual([
      'me@mill.example',
    ]);
    expect(own(...many(3, ['Absentees', 'From: a@x.example'] as const))).toEqual([]);
  });

  test('else those that a third of the mail is addressed to, but not while delivery is told', () => {
    const mail = [
      ...many(4, ['INBOX', 'To: me@mill.example, ME@mill.example'] as const),
      ...many(2, ['INBOX', 'To: list@x.example'] as const),
    ];
    expect(own(...mail)).toEqual(['me@mill.example', 'list@x.example']);
    expect(own(...mail, ...many(3, ['INBOX', 'To: list@x.example'] as const))).toContain('list@x.example');
    expect(own(...mail, ['INBOX', 'Delivered-To: x@mill.example'], ['INBOX', 'Delivered-To: x@mill.example'])).toEqual([
      'x@mill.example',
    ]);
  });
});
