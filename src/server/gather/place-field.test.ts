import { eq } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { addFile, audit, FROM, goTo, id, job, simulated, store, withAudit, work } from '../../../test/harness';
import { archiveOf, auditFromArchive } from '../audits/archive';
import { messages } from '../database/schema';
import { placeMail } from '../jobs/place-mail';
import { offersOf } from '../mail/filters-view';
import { messagesByFolder } from '../mail/folder-messages';
import { messagePage } from '../mail/list-view';
import { messageView } from '../mail/message-view';
import { refilePlan } from '../mail/refile-plan';
import { renameFolder } from './folders';
import { placeFieldView, setPlaceField } from './place-field';
import { gatherView } from './view';

withAudit();

const PLACES = ['Inbox', 'Inbox,Oak', 'Oak', '"Lime, mortar"', 'Sent', ''];
const letter = (at: number) => {
  const place = PLACES[at % PLACES.length];
  const arrived = place === 'Sent' ? '' : 'Received: by mill.example; Thu, 1 Jan 2026 10:00:00 +0000\n';
  return `${FROM}\n${arrived}From: Ann <a@x.example>\n${place ? `X-Places: ${place}\n` : ''}Subject: ${at}\n\nwords\n\n`;
};
const mail = (from: number, to: number) => Array.from({ length: to - from }, (_, at) => letter(from + at)).join('');
const folders = () =>
  gatherView(store, id)
    .folders.map(({ folder, messages: held }) => `${folder} ${held}`)
    .sort();
const held = (place: string) => messagesByFolder(store, audit()).get(place)?.count() ?? 0;
const listed = (folder: string) => messagePage(store, id, { offset: 0, limit: 100, part: 'fired', folder }).found;
const outgoing = () => store.select().from(messages).where(eq(messages.outgoing, true)).all().length;

test('one file becomes folders, with several places for one message, and one file again', async () => {
  await addFile('All.mbox', mail(0, 30));
  await work();
  await simulated();
  const { chosen, proposed, total } = placeFieldView(store, id);
  expect([chosen, total, proposed.map(({ name, messages: own, several }) => [name, own, several])]).toEqual([
    null,
    30,
    [['x-places', 25, 5]],
  ]);
  expect([folders(), outgoing()]).toEqual([['All 30'], 5]);

  setPlaceField(store, id, 'X-Places');
  await simulated();
  expect(folders()).toEqual(['All 5', 'INBOX 5', 'Lime, mortar 5', 'Oak 10', 'Sent 5']);
  expect(['INBOX', 'Oak'].map(held)).toEqual([10, 10]);
  expect(['INBOX', 'Oak', 'All'].map(listed)).toEqual([10, 10, 5]);
  expect(messageView(store, id, 1).folders).toEqual(['INBOX', 'Oak']);
  expect(offersOf(store, id).folders).toEqual(['All', 'INBOX', 'Lime, mortar', 'Oak', 'Sent']);

  setPlaceField(store, id, null);
  await simulated();
  expect([folders(), outgoing(), held('INBOX')]).toEqual([['All 30'], 5, 0]);
});

test('mail that comes later is put there too, and a newer reading of the same file finds its messages', async () => {
  await addFile('All.mbox', mail(0, 12));
  await work();
  setPlaceField(store, id, 'x-places');
  await simulated();
  await addFile('All.mbox', mail(0, 18));
  await work();
  await simulated();
  expect(audit().storedCount).toBe(18);
  expect(folders()).toEqual(['All 3', 'INBOX 3', 'Lime, mortar 3', 'Oak 6', 'Sent 3']);
  const before = audit().edition;
  placeMail(store, job());
  expect(audit().edition).toBe(before);
});

test('applying rules moves a message out of the inbox and leaves its other places', async () => {
  await addFile('rules.sieve', 'require "fileinto"; if header :is "subject" "1" { fileinto "Weir"; }');
  await addFile('All.mbox', mail(0, 12));
  await work();
  setPlaceField(store, id, 'x-places');
  await simulated();
  const moves = (which: 'inbox' | 'all') =>
    refilePlan(store, id, { mail: which }).moves.map(({ from, to }) => [...from, '>', ...to].join(' '));
  expect([moves('inbox'), moves('all')]).toEqual([['INBOX Oak > Oak Weir'], ['INBOX Oak > Weir']]);
});

test('a renamed place is renamed wherever a message is', async () => {
  await addFile('All.mbox', mail(0, 12));
  await work();
  setPlaceField(store, id, 'x-places');
  await simulated();
  renameFolder(store, id, 'INBOX', 'Arrived');
  expect([held('INBOX'), held('Arrived'), listed('Arrived')]).toEqual([0, 4, 4]);
  renameFolder(store, id, 'Oak', 'Trees');
  expect([held('Trees'), messageView(store, id, 1).folders]).toEqual([4, ['Arrived', 'Trees']]);
  renameFolder(store, id, 'All', 'Everything');
  setPlaceField(store, id, null);
  await simulated();
  expect(folders()).toEqual(['Everything 12']);
});

test('a field that no message has is refused; the choice is part of an exported audit', async () => {
  await addFile('All.mbox', mail(0, 12));
  await work();
  expect(() => setPlaceField(store, id, 'x-none')).toThrow('No stored message has the field x-none.');
  setPlaceField(store, id, 'x-places');
  const archive = archiveOf(store, id);
  expect(archive.placeField).toBe('x-places');
  goTo(auditFromArchive(store, archive));
  expect(placeFieldView(store, id)).toEqual({ chosen: 'x-places', proposed: [], total: 0 });
});

test('a place in which every message has another one too is among the filters', async () => {
  const both = mail(0, 12).replaceAll('X-Places: Inbox\n', 'X-Places: Inbox,Oak\n');
  await addFile('All.mbox', both);
  await work();
  setPlaceField(store, id, 'x-places');
  await simulated();
  expect([folders().some((line) => line.startsWith('INBOX')), listed('INBOX')]).toEqual([false, 4]);
  expect(offersOf(store, id).folders).toContain('INBOX');
});
