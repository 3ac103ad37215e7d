import { expect, test } from 'vitest';
import { MailGatherer, valued } from '../audit/stored';
import { Bitmap } from '../flow/bitmap';
import { readMessage } from '../mail/message';
import { sentenceOf } from '../rules/sentence';
import { discarding, unwantedSenders } from './unwanted';

interface Letter {
  readonly from: string;
  readonly folder?: string;
  readonly flags?: readonly string[];
  readonly day?: number;
  readonly fields?: string;
}

function unwantedIn(letters: readonly Letter[]): string[] {
  const gatherer = new MailGatherer();
  const offering = new Bitmap(letters.length);
  letters.forEach(({ from, folder = 'INBOX', flags = [], day = 1, fields = '' }, number) => {
    const date = new Date(Date.UTC(2026, 0, day)).toUTCString().replace('GMT', '+0000');
    const text = `From: ${from}\nTo: me@mill.example\nDate: ${date}\nSubject: x\n${fields}\nwords\n`;
    gatherer.add({ message: readMessage(new TextEncoder().encode(text)), folder, flags });
    if (/^list-unsubscribe/i.test(fields)) offering.add(number);
  });
  const senders = unwantedSenders(valued(gatherer.mail(['me@mill.example'])), offering);
  return senders.map(({ address, messages, unread, thrown }) => `${address} ${messages.length} ${unread} ${thrown}`);
}

const times = (count: number, letter: Letter): Letter[] => Array.from({ length: count }, () => letter);
const SEEN = { flags: ['\\seen'] };
/** Mail of the day that ends the time of the stored mail. */
const READ = times(3, { from: 'ann@people.example', day: 90, ...SEEN });

test('senders whose mail is thrown away, or left unread for a month, those with the most mail first', () => {
  const letters = [
    ...READ,
    ...times(3, { from: 'a@x.example' }),
    ...times(4, { from: 'B@x.example', folder: 'Archive/Junk', ...SEEN }),
    { from: 'c@x.example', folder: 'Deleted Items', ...SEEN },
    ...times(2, { from: 'c@x.example' }),
  ];
  expect(unwantedIn(letters)).toEqual(['b@x.example 4 0 4', 'a@x.example 3 3 0', 'c@x.example 3 2 1']);
});

test.each<[string, Letter[]]>([
  ['two messages', times(2, { from: 'a@x.example' })],
  ['one was read and kept', [...times(3, { from: 'a@x.example' }), { from: 'a@x.example', ...SEEN }]],
  ['one is of this month', [...times(3, { from: 'a@x.example' }), { from: 'a@x.example', day: 89 }]],
  ['one was answered', [...times(3, { from: 'a@x.example' }), { from: 'a@x.example', flags: ['\\answered'] }]],
  [
    'one offers a way to unsubscribe',
    [...times(3, { from: 'a@x.example' }), { from: 'a@x.example', fields: 'List-Unsubscribe: <https://x.example>\n' }],
  ],
  ['a mailing list', times(4, { from: 'a@x.example', fields: 'List-Id: <weavers.x.example>\n' })],
  ['one of the own addresses', times(4, { from: 'me@mill.example' })],
  ['the folder is about bins', times(4, { from: 'a@x.example', folder: 'Bins and skips', ...SEEN })],
])('mail is not called unwanted: %s', (_why, letters) => {
  expect(unwantedIn([...READ, ...letters])).toEqual([]);
});

test('where no mail is marked as read, unread mail says nothing', () => {
  expect(unwantedIn(times(4, { from: 'a@x.example' }))).toEqual([]);
});

test('people the user has written to are wanted', () => {
  const sent = { from: 'me@mill.example', folder: 'Sent', fields: 'Cc: a@x.example\n' };
  expect(unwantedIn([...READ, sent, ...times(4, { from: 'a@x.example' })])).toEqual([]);
});

test('the rule discards by the exact address, and no rule behind it acts', () => {
  expect(sentenceOf(discarding(['a@x.example', 'b@x.example']))).toBe(
    'When the address in From is “a@x.example” or “b@x.example”: discard, then stop.',
  );
});
