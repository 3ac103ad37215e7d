import { describe, expect, test } from 'vitest';
import { fromBufferPromise } from 'yauzl';
import { given } from '../../../test/given';
import { addFile, audit, FROM, fill, id, simulated, store, withAudit, work } from '../../../test/harness';
import { splitMbox } from '../../core/mail/mbox';
import { octetsOf } from '../../files/undeclared';
import { setOwnAddresses } from '../audits/audits';
import { makeChange } from '../changes/changes';
import type { RefiledSelection } from '../http/shapes';
import { messageOctets, messagesAsZip, pathOf } from './download';
import { workOutKnowledge } from './knowledge';
import { messagePage } from './list-view';
import { refilePlan } from './refile-plan';
import { refiledMailbox } from './refiled-copy';

withAudit();

async function unpacked(stream: AsyncIterable<Buffer>): Promise<Map<string, Buffer>> {
  const parts: Buffer[] = [];
  for await (const part of stream) parts.push(part);
  const archive = await fromBufferPromise(Buffer.concat(parts));
  const files = new Map<string, Buffer>();
  for await (const entry of archive.eachEntry()) {
    if (String(entry.fileName).endsWith('/')) continue;
    const chunks: Buffer[] = [];
    for await (const chunk of octetsOf(await archive.openReadStreamPromise(entry))) chunks.push(chunk);
    files.set(String(entry.fileName), Buffer.concat(chunks));
  }
  return files;
}

const SENT = `${FROM}\nFrom: me@mill.example\nSubject: oak, from me\n\nwords\n\n`;
const DROPPED = `${FROM}\nFrom: a@x.example\nSubject: rubbish\nStatus: R\n\nwords\n\n`;

const ALL = { mail: 'all' } as const;
const PARTS = ['before', 'left', 'came', 'after'] as const;
const found = (refiled: RefiledSelection) =>
  messagePage(store, id, { offset: 0, limit: 9, part: 'fired', refiled }).found;

describe('filing stored mail anew', () => {
  test('the plan: from where to where, what stays, what the user sent; every count leads to its messages', async () => {
    await fill();
    await addFile('more.sieve', 'if header :contains "subject" "rubbish" { discard; }');
    await addFile('Sent.mbox', SENT + DROPPED);
    await work();
    await simulated();
    setOwnAddresses(store, id, ['ME@mill.example']);
    const plan = refilePlan(store, id, ALL);
    expect(plan.moves.map(({ from, to, count }) => `${count} ${from.join('+')} > ${to.join('+')}`).sort()).toEqual([
      '1 INBOX > Beams+Oak',
      '1 INBOX > Oak',
      '1 Sent > ',
      '2 INBOX > Weir',
    ]);
    expect([plan.total, plan.stored, plan.staying, plan.sent, plan.gone]).toEqual([6, 7, 1, 1, 1]);
    for (const { from, to, count } of plan.moves) expect(found({ ...ALL, from: [...from], to: [...to] })).toBe(count);
    for (const { place, messages } of plan.places) {
      for (const part of ['before', 'left', 'came', 'after'] as const)
        expect(found({ ...ALL, place, part, of: 'messages' })).toBe(messages[part]);
    }
    expect(found({ ...ALL, place: '', part: 'gone', of: 'messages' })).toBe(1);
  });

  test('the balance of one rule, and of the inbox alone, in messages, conversations and unread', async () => {
    await fill();
    await addFile('Old.mbox', `${DROPPED}${FROM}\nFrom: a@x.example\nSubject: oak\n\nwords\n\n`);
    await work();
    await simulated();
    workOutKnowledge(store, audit(), () => {});
    const oak = given(audit().draft.entries.find(({ name }) => name === 'Oak')).id;
    const balances = ({ places }: ReturnType<typeof refilePlan>) =>
      Object.fromEntries(
        places.map(({ place, messages, conversations, unread }) => [
          place,
          [messages, given(conversations), given(unread)].map((one) => PARTS.map((part) => one[part]).join(' ')),
        ]),
      );
    expect(balances(refilePlan(store, id, { rule: oak, mail: 'all' }))).toMatchInlineSnapshot(`
      {
        "INBOX": [
          "5 2 0 3",
          "5 2 0 3",
          "5 2 0 3",
        ],
        "Oak": [
          "0 0 3 3",
          "0 0 3 3",
          "0 0 3 3",
        ],
        "Old": [
          "2 1 0 1",
          "2 1 0 1",
          "1 1 0 0",
        ],
      }
    `);
    expect(balances(refilePlan(store, id, { rule: oak, mail: 'inbox' }))).toMatchInlineSnapshot(`
      {
        "INBOX": [
          "5 2 0 3",
          "5 2 0 3",
          "5 2 0 3",
        ],
        "Oak": [
          "0 0 2 2",
          "0 0 2 2",
          "0 0 2 2",
        ],
        "Old": [
          "2 0 0 2",
          "2 0 0 2",
          "1 0 0 1",
        ],
      }
    `);
    // Each conversation has one message here.
    for (const { place, conversations, unread } of refilePlan(store, id, { rule: oak, mail: 'all' }).places) {
      for (const part of PARTS) {
        const of = (measure: 'conversations' | 'unread') => found({ rule: oak, mail: 'all', place, part, of: measure });
        expect([of('conversations'), of('unread')]).toEqual([conversations?.[part], unread?.[part]]);
      }
    }
    expect(() => refilePlan(store, id, { rule: 'none', mail: 'all' })).toThrow('There is no such rule.');
  });

  test('the copy holds every message, byte for byte, where the plan puts it; what is dropped is in it too', async () => {
    await fill();
    await addFile('more.sieve', 'if header :contains "subject" "rubbish" { discard; }');
    await addFile('Sent.mbox', DROPPED);
    await work();
    await simulated();
    const files = await unpacked(refiledMailbox(store, id, 'mbox', ALL));
    expect([...files.keys()].sort()).toEqual([
      'Beams.mbox',
      'INBOX.mbox',
      'Not delivered.mbox',
      'Oak.mbox',
      'Weir.mbox',
    ]);
    const oak = [...splitMbox(given(files.get('Oak.mbox')))].map(({ raw }) => Buffer.from(raw).toString());
    expect(oak).toEqual([2, 3].map((number) => messageOctets(store, id, number).toString()));
    const maildir = await unpacked(refiledMailbox(store, id, 'maildir', ALL));
    const dropped = [...maildir.keys()].find((name) => name.startsWith('Maildir/.Not delivered/cur/'));
    expect(dropped).toMatch(/:2,S$/);
    expect(maildir.get(dropped ?? '')?.toString()).toBe(messageOctets(store, id, 5).toString());
  });

  test('a selection as .eml files, each as it came', async () => {
    await fill();
    const files = await unpacked(messagesAsZip(store, id, { offset: 0, limit: 1, part: 'fired', search: 'oak' }));
    expect([...files.keys()]).toEqual(['INBOX/0000002.eml', 'INBOX/0000003.eml']);
    expect(files.get('INBOX/0000003.eml')?.toString()).toBe(messageOctets(store, id, 3).toString());
  });

  test.each([
    ['../../etc', '__/__/etc'],
    ['/a//b', 'a/b'],
    ['C:\\x', 'C__x'],
    ['..', '__'],
    ['', 'unnamed'],
    ['.hidden', '_hidden'],
    ['Müll/"x"', 'Müll/_x_'],
    ['a\nb', 'a_b'],
  ])('the folder %j is the path %j in an archive', (folder, path) => expect(pathOf(folder)).toBe(path));

  test('a rule switched off changes the plan', async () => {
    await fill();
    makeChange(store, id, [{ kind: 'switch', id: 'r1', on: false }], '');
    expect(
      refilePlan(store, id, ALL)
        .moves.map(({ to }) => to.join('+'))
        .sort(),
    ).toEqual(['Beams+Oak', 'Oak']);
  });
});
