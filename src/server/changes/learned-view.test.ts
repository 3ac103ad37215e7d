import { expect, test } from 'vitest';
import { addFile, FROM, id, simulated, store, withAudit, work } from '../../../test/harness';
import { learnedSetView } from './learned-view';

withAudit();

/** Mail of a sender over the whole of a year. */
const mail = (sender: string, subject: string, count: number) =>
  Array.from({ length: count }, (_, at) => {
    const date = new Date(Date.UTC(2025, 0, 1 + (at * 360) / count)).toUTCString().replace('GMT', '+0000');
    return `${FROM}\nFrom: ${sender}\nMessage-ID: <${at}.${sender}>\nDate: ${date}\nSubject: ${subject}\n\nx\n\n`;
  }).join('');

test('learned from the older mail, tried on the newer: right, wrong, covered and left over add up', async () => {
  await addFile('Oak.mbox', mail('a@oak.example', 'beam', 20));
  await addFile('Lime.mbox', mail('b@lime.example', 'mortar', 10));
  await addFile('Odd.mbox', mail('c@odd.example', 'odd', 2));
  await addFile('INBOX.mbox', mail('d@home.example', 'hello', 8));
  await work();
  const { rows, older, newer, draft } = learnedSetView(store, id);
  expect(rows.map(({ sentence }) => sentence)).toEqual([
    'When the address in From is “a@oak.example”: file into “Oak”, then stop.',
    'When the address in From is “b@lime.example”: file into “Lime”, then stop.',
  ]);
  expect(rows.map((row) => [row.older, row.newer])).toEqual([
    [
      { right: 13, wrong: 0, left: 0 },
      { right: 7, wrong: 0, left: 0 },
    ],
    [
      { right: 7, wrong: 0, left: 0 },
      { right: 3, wrong: 0, left: 0 },
    ],
  ]);
  expect(older.messages + newer.messages).toBe(40);
  for (const part of [older, newer]) expect(part.right + part.left).toBe(part.filed);
  expect(newer.wrong).toBe(0);
  expect(draft).toEqual([]);
});

test('without filed mail there is nothing to learn', async () => {
  await addFile('INBOX.mbox', mail('d@home.example', 'hello', 8));
  await work();
  expect(learnedSetView(store, id)).toMatchObject({ rows: [], newer: { filed: 0, right: 0, wrong: 0 } });
});

test('senders whose unread mail offers no way to unsubscribe are proposed to be discarded', async () => {
  const read = mail('d@home.example', 'hello', 8).replaceAll('\nSubject: hello', '\nStatus: RO\nSubject: hello');
  const offering = mail('n@news.example', 'news', 4).replaceAll('\nx\n\n', '\nto unsubscribe, write to us\n\n');
  await addFile('INBOX.mbox', `${read}${mail('prizes@lottery.example', 'you have won', 4)}${offering}`);
  await work();
  await simulated();
  expect(learnedSetView(store, id).unwanted).toEqual([
    { address: 'prizes@lottery.example', messages: 4, unread: 4, thrown: 0 },
  ]);
});

test('what a folder holds besides, and no rule covers, is left over', async () => {
  const singles = Array.from({ length: 10 }, (_, at) => mail(`one${at}@single${at}.example`, `x${at}`, 1));
  await addFile('Oak.mbox', mail('a@oak.example', 'beam', 40) + singles.join(''));
  await work();
  const [row, another] = learnedSetView(store, id).rows;
  expect(another).toBeUndefined();
  expect([row?.older.left, row?.newer.left]).toEqual([10, 0]);
});
