import { expect, test } from 'vitest';
import { addFile, FROM, id, simulated, store, withAudit, work } from '../../../test/harness';
import { setClock, setOwnAddresses } from '../audits/audits';
import { chainView } from '../chain/view';
import { messageView } from './message-view';

withAudit();

const RULES = `require ["envelope", "date", "relational", "fileinto"];
# Mine
if envelope :is "to" "me@mill.example" { fileinto "Mine"; }
# Office
if envelope :is "to" "office@mill.example" { fileinto "Office"; }
# July
if allof (currentdate :value "ge" "date" "2025-07-01", currentdate :value "le" "date" "2025-07-14") { fileinto "July"; }
`;

const letter = (...fields: readonly string[]) =>
  `${FROM}\n${[...fields, 'Subject: x', '', 'words', '', ''].join('\n')}`;
const MAIL = [
  letter('X-Original-To: office@mill.example', 'Received: by x.example; Tue, 8 Jul 2025 10:00:00 +0000'),
  letter('Delivered-To: me@mill.example', 'Date: Tue, 8 Jul 2025 10:00:00 +0000'),
  letter(
    'To: somebody@else.example',
    'Received: by x.example; Thu, 8 Jan 2026 10:00:00 +0000',
    'Date: Tue, 8 Jul 2025 10:00:00 +0000',
  ),
].join('');

const fired = () => chainView(store, id).rungs.map(({ counts }) => counts?.fired);
/** The page of each message shows what the interpreter has found. */
const traced = () =>
  [0, 1, 2].map((number) =>
    messageView(store, id, number).entries.flatMap(({ name, outcome }) => (outcome === 'fired' ? [name] : [])),
  );

test('whom messages went to, and when, is one thing for columns, pages and counts', async () => {
  await addFile('rules.sieve', RULES);
  await addFile('INBOX.mbox', MAIL);
  await work();
  setOwnAddresses(store, id, ['me@mill.example', 'office@mill.example']);
  await simulated();
  expect(fired()).toEqual([2, 1, 2]);
  expect(traced()).toEqual([['Office', 'July'], ['Mine', 'July'], ['Mine']]);

  // Another first own address is another recipient for messages that name none.
  setOwnAddresses(store, id, ['office@mill.example', 'me@mill.example']);
  await simulated();
  expect(fired()).toEqual([1, 2, 2]);
  expect(traced()[2]).toEqual(['Office']);

  // One date for all messages, and back.
  setClock(store, id, Date.UTC(2025, 6, 2, 12));
  await simulated();
  expect(fired()).toEqual([1, 2, 3]);
  expect(traced()[2]).toEqual(['Office', 'July']);
  setClock(store, id, null);
  await simulated();
  expect(fired()).toEqual([1, 2, 2]);
});
