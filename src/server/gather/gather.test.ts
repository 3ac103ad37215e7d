import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeEach, describe, expect, test } from 'vitest';
import {
  addFile,
  audit,
  body,
  databases,
  FROM,
  id,
  MAIL,
  root,
  runner,
  store,
  withAudit,
  work,
} from '../../../test/harness';
import { makeChange, undo } from '../changes/changes';
import { storedMail } from '../mail/stored-mail';
import { renameFolder } from './folders';
import { importPath, readAgain } from './import-file';
import { listScripts, nameEntries, scriptStep } from './script-sources';
import { dismissReceipts } from './uploads';
import { gatherView } from './view';

/** Imports, the receipt of each file, and later changes to it. */

withAudit();

const rule = (name: string) => `# ${name}\nif header :contains "subject" "${name}" { stop; }\n`;
const names = () => audit().draft.entries.map(({ name }) => name);
const receipts = () => gatherView(store, id).receipts.map(({ fileName, outcome, words }) => [fileName, outcome, words]);
const scriptNamed = (fileName: string) =>
  listScripts(store, audit()).find((one) => one.fileName === fileName)?.id ?? '';

describe('receipts', () => {
  test('tell of each file what became of it, until they are dismissed', async () => {
    await addFile('rules.sieve', rule('oak'));
    await addFile('rules.sieve', rule('oak')).catch(() => {});
    await addFile('a.sieve', '').catch(() => {});
    await addFile('INBOX.mbox', MAIL);
    await addFile('none.mbox', `\u0001 rubbish`);
    expect(
      receipts()
        .slice(0, 2)
        .map(([, outcome]) => outcome),
    ).toEqual(['importing', 'importing']);
    await work();
    expect(receipts()).toEqual([
      ['none.mbox', 'refused', 'The file contains no mail: it is neither an mbox file nor a message.'],
      ['INBOX.mbox', 'taken', '5 messages.'],
      ['a.sieve', 'refused', '“a.sieve” is empty.'],
      ['rules.sieve', 'there', 'The same file was imported before, as “rules.sieve”.'],
      ['rules.sieve', 'taken', '“rules.sieve”: 1 rule.'],
    ]);
    const [, mail] = gatherView(store, id).receipts;
    dismissReceipts(store, id, mail?.id ?? -1);
    expect(receipts()).toHaveLength(4);
    expect(() => dismissReceipts(store, id, mail?.id ?? -1)).toThrow('This receipt no longer exists');
    dismissReceipts(store, id, null);
    expect(receipts()).toEqual([]);
    expect(audit().messageCount).toBe(5);
  });

  test('a file that comes a second time while the first is read is one source', async () => {
    const all = await Promise.allSettled(
      Array.from({ length: 6 }, () => addFile('box.mbox', `${FROM}\nSubject: x\n\ny\n\n`)),
    );
    expect(all.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    expect(
      receipts()
        .map(([, outcome]) => outcome)
        .sort(),
    ).toEqual(['importing', ...Array(5).fill('there')]);
  });
});

test('an empty folder of a Maildir exists, under the name that it is given', async () => {
  const path = join(root, `${databases}-maildir`);
  for (const folder of ['cur', '.Archive.2020/cur', '.Empty/cur', '.Empty/new'])
    mkdirSync(join(path, folder), { recursive: true });
  writeFileSync(join(path, 'cur', '1.a:2,S'), 'From: a@x.example\nSubject: oak\n\nx\n');
  await importPath(store, runner, id, path);
  await work();
  const folders = () => gatherView(store, id).folders.map(({ folder, messages }) => [folder, messages]);
  expect(folders()).toEqual([
    ['INBOX', 1],
    ['Archive/2020', 0],
    ['Empty', 0],
  ]);
  expect(storedMail(store, audit()).folders).toEqual(new Set(['INBOX', 'Archive/2020', 'Empty']));
  renameFolder(store, id, 'Empty', 'Bare');
  expect(folders().map(([folder]) => folder)).toEqual(['INBOX', 'Archive/2020', 'Bare']);
  expect(() => renameFolder(store, id, 'Empty', 'Bare')).toThrow('no such folder');
});

describe('files of rules', () => {
  beforeEach(async () => {
    await addFile('1.sieve', `${rule('oak')}${rule('elm')}`);
    await addFile('2.sieve', rule('ash'));
    await addFile('3.sieve', `${rule('lime')}if vanish { keep; }\n`);
  });
  const step = (fileName: string, what: 'remove' | 'up' | 'down') => {
    const { edits, words } = scriptStep(store, id, scriptNamed(fileName), what);
    makeChange(store, id, edits, '', words);
    return words;
  };

  test('are moved and removed as a whole, and all of it can be undone', () => {
    expect(names()).toEqual(['oak', 'elm', 'ash', 'lime', 'Rule 2']);
    expect(step('3.sieve', 'up')).toBe('Move “3.sieve” before “2.sieve”');
    expect(names()).toEqual(['oak', 'elm', 'lime', 'Rule 2', 'ash']);
    step('1.sieve', 'down');
    expect(names()).toEqual(['lime', 'Rule 2', 'oak', 'elm', 'ash']);
    expect(listScripts(store, audit()).map(({ fileName }) => fileName)).toEqual(['3.sieve', '1.sieve', '2.sieve']);
    step('1.sieve', 'remove');
    expect(names()).toEqual(['lime', 'Rule 2', 'ash']);
    expect(listScripts(store, audit()).at(-1)).toMatchObject({ fileName: '1.sieve', entries: [] });
    expect(() => scriptStep(store, id, scriptNamed('1.sieve'), 'up')).toThrow('No rule of this file');
    expect(() => scriptStep(store, id, scriptNamed('3.sieve'), 'up')).toThrow('is already the first file');
    for (let at = 0; at < 3; at++) undo(store, id);
    expect(names()).toEqual(['oak', 'elm', 'ash', 'lime', 'Rule 2']);
  });

  test('are read again in their place, with the effect first', async () => {
    const { edits } = await readAgain(
      store,
      id,
      scriptNamed('1.sieve'),
      'new.sieve',
      body(`${rule('elm')}${rule('fir')}`),
    );
    expect(names()).toEqual(['oak', 'elm', 'ash', 'lime', 'Rule 2']);
    makeChange(store, id, edits, '');
    expect(names()).toEqual(['elm', 'fir', 'ash', 'lime', 'Rule 2']);
    expect(listScripts(store, audit())[0]).toMatchObject({ fileName: 'new.sieve', rules: 2 });
    undo(store, id);
    expect(names().slice(0, 2)).toEqual(['oak', 'elm']);
    const again = readAgain(store, id, scriptNamed('2.sieve'), '2.sieve', body(rule('ash')));
    await expect(again).rejects.toThrow('The same file');
  });

  test('one that comes after rules were added does not take their ids', async () => {
    const { edits } = await readAgain(store, id, scriptNamed('2.sieve'), 'x.sieve', body(`${rule('a')}${rule('b')}`));
    makeChange(store, id, edits, '');
    await addFile('4.sieve', `${rule('c')}${rule('d')}`);
    expect(names()).toEqual(['oak', 'elm', 'a', 'b', 'lime', 'Rule 2', 'c', 'd']);
    const ids = audit().draft.entries.map((entry) => entry.id);
    expect(new Set(ids).size).toBe(ids.length);
    undo(store, id);
    expect(names()).toEqual(['oak', 'elm', 'ash', 'lime', 'Rule 2', 'c', 'd']);
  });

  test('a fault leads to the rule that it concerns, as long as that is in the chain', () => {
    const [, , third] = listScripts(store, audit());
    expect(third?.faults).toEqual([{ words: expect.stringMatching(/^3:4: unknown test/), entry: 'r5' }]);
    step('3.sieve', 'remove');
    const removed = listScripts(store, audit()).find(({ fileName }) => fileName === '3.sieve');
    expect(removed?.faults[0]?.entry).toBeNull();
  });

  test('those of an earlier version are told which rules are theirs', () => {
    store.$client.exec("update script set entries = '[]'");
    nameEntries(store);
    expect(listScripts(store, audit()).map(({ entries }) => entries)).toEqual([['r1', 'r2'], ['r3'], ['r4', 'r5']]);
  });
});
