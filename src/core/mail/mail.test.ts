import fc from 'fast-check';
import PostalMime, { decodeWords as postalDecodeWords } from 'postal-mime';
import { describe, expect, test } from 'vitest';
import { addressText, maybeSingleAddress, parseAddressList } from './address';
import { arrivalOf } from './arrival';
import { decodeWords } from './encodedwords';
import { readHeaders } from './headers';
import { envelopeOf, readableTexts, readMessage, sizeWithCrlf } from './message';
import { dateOf, storedFlags, summaryOf } from './summary';

const octets = (text: string) => new TextEncoder().encode(text);
const addresses = (raw: string) => parseAddressList(raw).map(addressText);

describe('headers (RFC 5322 section 2.2)', () => {
  test('end at the first empty line, fold, and keep what is no field', () => {
    const block = readHeaders(octets('A: 1\nno field\nB:\n 2\n\t3\n\nC: 4\n'));
    expect(block.fields.map(({ name, value }) => [name, value])).toEqual([
      ['A', '1'],
      ['B', '2 3'],
    ]);
    expect(block.strangeLines).toEqual(['no field']);
  });
  test.each([
    // Common practice: two independent interpreters read it so.
    ['one\r\n\ttwo', 'one two'],
    ['one\n\ttwo', 'one two'],
    ['one\r\n two', 'one two'],
    ['one\r\n   two', 'one   two'],
    ['one \r\n two', 'one  two'],
    ['one\ttwo', 'one\ttwo'],
  ])('%j reads %j', (written, read) => {
    expect(readHeaders(octets(`Subject: ${written}\r\n\r\n`)).fields[0]?.value).toBe(read);
  });
  test('white space at the ends goes, a no-break space stays', () => {
    expect(readHeaders(octets('Subject: \t a\u00a0 \n\n')).fields[0]?.value).toBe('a\u00a0');
    const blanks = ' '.repeat(1_000_000);
    expect(readHeaders(octets(`Subject: a${blanks}b${blanks}\n\n`)).fields[0]?.value).toHaveLength(1_000_002);
  });
  test('the encoding is guessed for each field by itself', () => {
    const raw = Buffer.concat([
      Buffer.from([...Buffer.from('Received: from caf'), 0xe9, ...Buffer.from(' by x.example\r\n')]),
      Buffer.from('Subject: Grün “weir”\r\nX-Price: '),
      Buffer.from([0x80, 0x20, 0x35, 13, 10, 13, 10]),
    ]);
    expect(readHeaders(raw).fields.map(({ value }) => value)).toEqual(['from café by x.example', 'Grün “weir”', '€ 5']);
  });
  test('a message without a header is all body', () => {
    expect(readHeaders(octets('just words\nmore: words\n'))).toMatchObject({ fields: [], bodyStart: 0 });
    expect(readHeaders(new Uint8Array())).toMatchObject({ fields: [], bodyStart: 0 });
    expect(readHeaders(octets('\nbody'))).toMatchObject({ fields: [], bodyStart: 1 });
  });
  test('8-bit text is UTF-8 where it is well-formed, else one character an octet (RFC 6532)', () => {
    expect(readHeaders(octets('Subject: grün\n\n')).fields[0]?.value).toBe('grün');
    expect(readHeaders(Uint8Array.from([65, 58, 32, 0xfc, 10, 10])).fields[0]?.value).toBe('ü');
  });
});

describe('encoded words (RFC 2047)', () => {
  test.each([
    // Section 8, from memory.
    ['=?ISO-8859-1?Q?a?=', 'a'],
    ['=?ISO-8859-1?Q?a?= b', 'a b'],
    ['=?ISO-8859-1?Q?a?= =?ISO-8859-1?Q?b?=', 'ab'],
    ['=?ISO-8859-1?Q?a_b?=', 'a b'],
    ['=?ISO-8859-1?Q?a?= =?ISO-8859-2?Q?_b?=', 'a b'],
    ['=?US-ASCII?Q?Keith_Moore?= <moore@cs.example>', 'Keith Moore <moore@cs.example>'],
    ['=?iso-2022-jp?B?GyRCP2U8VhsoQg==?=', '水車'],
    // Each word shifts back at its end, and the next one shifts again.
    ['=?iso-2022-jp?B?GyRCP2UbKEI=?= =?iso-2022-jp?B?GyRCPFYbKEI=?=', '水車'],
    ['=?utf-8*en?Q?lang?=', 'lang'],
    ['=?x-unknown?q?stays?=', '=?x-unknown?q?stays?='],
    ['no =? word', 'no =? word'],
    // The blank beside a word that is not decoded is one of plain text.
    ['=?x-unknown?q?stays?= =?utf-8?q?a?=', '=?x-unknown?q?stays?= a'],
    ['=?utf-8?q?a?= =?x-unknown?q?stays?=', 'a =?x-unknown?q?stays?='],
    ['=?windows-1252?q?=80_=93weir=94?=', '€ “weir”'],
    ['=?iso-8859-1?q?caf=E9_=96_now?=', 'café – now'],
  ])('%s', (raw, decoded) => expect(decodeWords(raw)).toBe(decoded));

  test('agree with a MIME library on generated words', () => {
    const word = fc.string({ minLength: 1, maxLength: 8, unit: 'grapheme' }).map((text) => {
      return `=?utf-8?B?${Buffer.from(text).toString('base64')}?=`;
    });
    fc.assert(
      fc.property(
        fc.array(fc.oneof(word, fc.constantFrom('plain', 'two words')), { minLength: 1, maxLength: 5 }),
        (parts) => {
          expect(decodeWords(parts.join(' '))).toBe(postalDecodeWords(parts.join(' ')));
        },
      ),
    );
  });
});

describe('addresses (RFC 5322 section 3.4)', () => {
  test.each([
    ['ann@mill.example', ['ann@mill.example']],
    ['Ann Lee <ann@mill.example>, bob@oak.example', ['ann@mill.example', 'bob@oak.example']],
    ['"Lee, Ann" <ann@mill.example>', ['ann@mill.example']],
    [
      'Team: ann@mill.example, Bob <bob@oak.example>; , c@x.example',
      ['ann@mill.example', 'bob@oak.example', 'c@x.example'],
    ],
    ['undisclosed-recipients:;', []],
    ['"a b"@x.example', ['"a b"@x.example']],
    ['a@[192.0.2.1]', ['a@[192.0.2.1]']],
    ['Joe Q. Public <john.q.public@x.example>', ['john.q.public@x.example']],
    ['<>', []],
    ['', []],
    ['a@x.example b@y.example', ['a@x.example']],
    ['Pete(A nice \\) chap) <pete(his account)@silly.test(his host)>', ['pete@silly.test']],
  ])('%s', (raw, expected) => expect(addresses(raw)).toEqual(expected));

  test('agree with a MIME library on generated lists', async () => {
    const name = fc.constantFrom('', 'Ann', '"Lee, Ann"', 'Ann Lee');
    const box = fc
      .tuple(name, fc.constantFrom('a@x.example', 'b.c@y.example'))
      .map(([who, at]) => (who ? `${who} <${at}>` : at));
    const list = fc.array(
      fc.oneof(
        box,
        fc.array(box, { maxLength: 2 }).map((some) => `Team: ${some.join(', ')};`),
      ),
      { minLength: 1, maxLength: 4 },
    );
    await fc.assert(
      fc.asyncProperty(list, async (parts) => {
        const raw = parts.join(', ');
        const theirs = (await PostalMime.parse(`To: ${raw}\n\n`)).to?.flatMap((to) => to.group ?? [to]) ?? [];
        expect(addresses(raw)).toEqual(theirs.map((to) => to.address));
      }),
      { numRuns: 200 },
    );
  });

  test('never throw and never hang on rubbish', () => {
    const rubbish = fc.string({ unit: fc.constantFrom(...'<>@,;:"\\()[] ab.'), maxLength: 60 });
    fc.assert(
      fc.property(rubbish, (raw) => Array.isArray(parseAddressList(raw))),
      { numRuns: 3000 },
    );
    expect(parseAddressList('('.repeat(100_000))).toEqual([]);
  });

  test('one complete address, for redirect', () => {
    expect(maybeSingleAddress('a@x.example')).not.toBeNull();
    for (const text of ['a', 'a@x.example, b@x.example', '', 'a b@x.example', '@x.example']) {
      expect(maybeSingleAddress(text)).toBeNull();
    }
  });
});

describe('messages', () => {
  test('size counts each line end as two (RFC 5228 section 5.9)', () => {
    expect(sizeWithCrlf(octets('a\nb\r\nc'))).toBe(7);
  });
  test('summary, flags and envelope', () => {
    const message = readMessage(
      octets(
        'Return-Path: <a@x.example>\nDelivered-To: me@mill.example\nFrom: =?utf-8?q?J=C3=B6rg?= <j@x.example>\nTo: b@y.example\nSubject: s\nDate: Thu, 1 Jan 2026 10:00:00 +0100 (CET)\nStatus: RO\nX-Status: AF\n\n',
      ),
    );
    expect(summaryOf(message)).toEqual({
      messageId: null,
      subject: 's',
      from: 'Jörg',
      fromAddress: 'j@x.example',
      to: 'b@y.example',
      date: Date.UTC(2026, 0, 1, 9),
    });
    expect(storedFlags(message)).toEqual(['\\seen', '\\answered', '\\flagged']);
    expect(envelopeOf(message, null)).toEqual({ from: 'a@x.example', to: 'me@mill.example' });
  });
  test('keywords of a mailbox that a server kept are flags, those that no server can keep are not', () => {
    const flagsOf = (head: string) => storedFlags(readMessage(octets(`${head}\n\n`)));
    expect(flagsOf('X-Keywords: $Forwarded  Bills Later           ')).toEqual(['$forwarded', 'bills', 'later']);
    expect(flagsOf('Status: RO\nKeywords: weir, two words, LATER, (no), "no", a*b')).toEqual([
      '\\seen',
      'weir',
      'later',
    ]);
    expect(flagsOf('X-Keywords:\nKeywords: ,,')).toEqual([]);
    expect(flagsOf(`X-Keywords: ${'word '.repeat(5000)}${'x'.repeat(65)}`)).toEqual(['word']);
  });
  test.each([
    // Common practice, in this order; else the account that was chosen or the first own address.
    ['X-Original-To: list@mill.example\nDelivered-To: Me+oak@mill.example', 'Me+oak@mill.example'],
    ['Envelope-To: b@mill.example\nX-Original-To: <a@mill.example>', 'a@mill.example'],
    ['To: somebody@else.example', 'own@mill.example'],
    ['Delivered-To: ', 'own@mill.example'],
  ])('the recipient of the envelope: %j is %s', (fields, to) => {
    expect(envelopeOf(readMessage(octets(`${fields}\n\n`)), 'own@mill.example').to).toBe(to);
  });

  test.each([
    [
      'Received: a; Tue, 8 Jul 2025 10:00:00 +0200\nReceived: b; Mon, 7 Jul 2025 10:00:00 +0200\nDate: Sun, 6 Jul 2025 10:00:00 +0200',
      '2025-07-08T08:00:00.000Z',
    ],
    ['Received: a without a date\nReceived: b; Mon, 7 Jul 2025 10:00:00 +0200', '2025-07-07T08:00:00.000Z'],
    ['Received: by x (a; b) with y; 7 Jul 2025 10:00:00 GMT (summer)', '2025-07-07T10:00:00.000Z'],
    ['Date: Sun, 6 Jul 2025 10:00:00 +0200', '2025-07-06T08:00:00.000Z'],
    ['Received: by x; 7 Jul 2025 10:00:00 GMT (one; (two; or three))', '2025-07-07T10:00:00.000Z'],
    ['Date: yesterday', null],
    ['Subject: x', null],
  ])('arrives by its newest Received field, else by its Date: %j', (fields, time) => {
    const found = arrivalOf(readMessage(octets(`${fields}\n\n`)));
    expect(found === null ? null : new Date(found).toISOString()).toBe(time);
  });

  test('broken dates are no dates', () => {
    for (const raw of [null, '', 'yesterday', 'Thu, 1 Jan 0000 00:00:00', 'Thu, 1 Jan 99999 00:00:00 +0000']) {
      expect(dateOf(raw)).toBeNull();
    }
  });
});

test('of a message with millions of parts or addresses the first are read', () => {
  const head = 'From: a@x.example\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n';
  const parts = readMessage(octets(`${head}\n${'--b\n\nx\n'.repeat(30_000)}--b--\n`));
  expect(readableTexts(parts)).toHaveLength(9999);
  const many = Array.from({ length: 60_000 }, (_, at) => `a${at}@x.example`).join(', ');
  expect(parseAddressList(many)).toHaveLength(20_000);
});
