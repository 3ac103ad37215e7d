import { gzipSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { addFile, audit, id, job, simulated, store, withAudit, work } from '../../../test/harness';
import { maybeFlow } from '../chain/simulation';
import { perform } from '../jobs/perform';
import { messagePage } from '../mail/list-view';
import { messageView } from '../mail/message-view';
import { maybeRaw } from '../mail/raw';
import { gatherView } from './view';

withAudit();

/** Reads everything that could break: fields, parts, texts, sizes. */
const SCRIPT = `require ["fileinto", "body", "mime", "foreverypart", "variables"];
if header :contains "subject" "weir" { fileinto "Weir"; }
if body :text :contains "sluice" { fileinto "Sluice"; }
if body :content "text/html" :contains "sluice" { fileinto "Html"; }
if exists "date" { fileinto "Dated"; }
if size :over 20M { fileinto "Large"; }
foreverypart { if header :mime :contains "content-type" "pdf" { fileinto "Pdf"; } }
`;

const parts = (levels: number): string => {
  let inner = 'Content-Type: text/plain\n\nthe sluice\n';
  for (let level = 0; level < levels; level++) {
    inner = `Content-Type: multipart/mixed; boundary="b${level}"\n\n--b${level}\n${inner}\n--b${level}--\n`;
  }
  return inner;
};
const utf16 = (text: string, mark: boolean) => Buffer.from((mark ? '\ufeff' : '') + text, 'utf16le');

const BAD: readonly (readonly [string, string | Buffer, string])[] = [
  ['ten thousand header fields', `${'X-Field: weir\n'.repeat(10_000)}Subject: weir\n\nwords\n`, 'many-fields'],
  ['a thousand levels of MIME', `Subject: weir\nMIME-Version: 1.0\n${parts(1000)}`, 'deep'],
  [
    'messages within messages',
    `Subject: weir\n${'Content-Type: message/rfc822\n\n'.repeat(1000)}Subject: inner\n\nthe sluice\n`,
    'deep',
  ],
  [
    'an invalid character set',
    'Subject: =?no-such?Q?weir?=\nContent-Type: text/plain; charset="\u0007no"\n\nx',
    'unknown-charset',
  ],
  ['a date in the year 0', 'Subject: weir\nDate: Thu, 1 Jan 0000 00:00:00 +0000\n\nx', 'no-date'],
  ['a date in the year 99999', 'Subject: weir\nDate: Thu, 1 Jan 99999 00:00:00 +0000\n\nx', 'no-date'],
  ['no date', 'Subject: weir\n\nx', 'no-date'],
  ['no header fields at all', '\n\njust words\n', 'no-header'],
  ['nothing that is a field', 'just words\nand more words\n\nx', 'no-header'],
  ['lines that end with CR alone', 'Subject: weir\rFrom: a@x.example\r\rwords\r', 'cr-lines'],
  ['UTF-16 with its mark', utf16('Subject: weir\n\nwords\n', true), 'utf-16'],
  ['UTF-16 without a mark', utf16('Subject: weir\n\nwords of some length\n', false), 'utf-16'],
  ['a line of four megabytes', `Subject: ${'weir '.repeat(800_000)}\n\nx`, 'no-date'],
  ['a large message', `Subject: weir\n\n${'the sluice is shut\n'.repeat(1_500_000)}`, 'large'],
  ['base64 that is none', 'Subject: weir\nContent-Transfer-Encoding: base64\n\n%%%=A=sluice', 'damaged-base64'],
  ['base64 that is cut off', 'Subject: weir\nContent-Transfer-Encoding: base64\n\nd2Vpc', 'damaged-base64'],
  ['an unknown charset of an encoded word', 'Subject: =?x-none?q?weir?=\n\nx', 'unknown-charset'],
  ['HTML that never ends', `Subject: weir\nContent-Type: text/html\n\n${'<a <!-- <b '.repeat(50_000)}`, 'odd-html'],
  [
    'a tag of a megabyte',
    `Subject: weir\nContent-Type: text/html\n\n<a title="${'x'.repeat(1_000_000)}">sluice`,
    'odd-html',
  ],
  [
    '100,000 tags within each other',
    `Subject: weir\nContent-Type: text/html\n\n${'<div>'.repeat(100_000)}sluice`,
    'odd-html',
  ],
];

describe('bad mail', () => {
  test.each(BAD)('%s: kept to the octet, said to be odd, and both engines agree on it', async (_what, text, oddity) => {
    const raw = Buffer.from(text);
    await addFile('rules.sieve', SCRIPT);
    await addFile('bad.eml', raw);
    await work();
    await simulated();
    expect(maybeRaw(store, id, 0)?.equals(raw)).toBe(true);
    const [row] = messagePage(store, id, { offset: 0, limit: 1, part: 'fired', oddities: '1' }).rows;
    expect(row?.oddities).toContain(oddity);
    expect(gatherView(store, id).sources[0]?.statement).toMatch(/^Irregular, but imported, of 1: /);
    expect(maybeFlow(store, audit(), audit().draft)).not.toBeNull();
    // The interpreter verifies the export on the raw octets, against the flow engine.
    expect(await perform(store, job(), { kind: 'verify' })).toBe('1 of 1 with the same destination');
    expect(messageView(store, id, 0).entries.length).toBeGreaterThan(3);
  });

  test.each([
    ['in UTF-16', utf16('From a@x.example Thu Jan  1 10:00:00 2026\nSubject: weir\n\nwords\n', true)],
    ['with CR alone', Buffer.from('From a@x.example Thu Jan  1 10:00:00 2026\rSubject: weir\r\rwords\r')],
  ])(
    'an mbox %s holds no message that could be told: it is refused in plain words, and leaves nothing',
    async (_how, raw) => {
      await addFile('bad.mbox', raw);
      await work();
      expect(gatherView(store, id)).toMatchObject({ total: 0, sources: [{ state: 'refused', messages: 0 }] });
      expect(gatherView(store, id).sources[0]?.statement).toMatch(/^The file contains no mail/);
      expect(maybeRaw(store, id, 0)).toBeNull();
    },
  );

  test('a compressed bomb is not unpacked', async () => {
    const block = Buffer.alloc(64 * 1024 * 1024);
    const letter = Buffer.concat([
      Buffer.from('From x@y.example Thu Jan  1 10:00:00 2026\n\n'),
      block,
      Buffer.from('\n\n'),
    ]);
    const bomb = gzipSync(Buffer.concat([letter, letter, letter, letter, letter]), { level: 9 });
    await addFile('bomb.mbox.gz', bomb);
    await work();
    expect(gatherView(store, id).sources[0]).toMatchObject({ state: 'refused' });
    expect(gatherView(store, id).sources[0]?.statement).toContain('unpacks to more than 200 times its size');
    expect(maybeRaw(store, id, 0)).toBeNull();
  });
});
