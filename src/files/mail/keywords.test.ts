import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { mailIn } from './formats';
import { keywordsIn, letterFor, readKeywords, writtenKeywords } from './keywords';
import { FetchedFolder } from './maildir';

let root: string;
beforeEach(() => {
  root = mkdtempSync(join(tmpdir(), 'maildir-'));
});
afterEach(() => rmSync(root, { recursive: true, force: true }));

async function flagsIn(folder: string): Promise<[string | null, readonly string[]][]> {
  const found: [string | null, readonly string[]][] = [];
  const passOver = ({ path }: { path: string }) => found.push([path, ['passed over']]);
  const settings = { name: 'x', folder: 'INBOX', progress: () => {}, isEnd: () => false, passOver };
  for await (const some of mailIn(folder, settings)) {
    found.push(...some.map(({ folder: own, flags }): [string, readonly string[]] => [own, flags]));
  }
  return found;
}

test('keywords of the messages of each Maildir', async () => {
  for (const part of ['cur', 'new', 'tmp', '.Weir/cur']) mkdirSync(join(root, part), { recursive: true });
  writeFileSync(join(root, 'dovecot-keywords'), '0 $Label1\n1 Oak\n');
  writeFileSync(join(root, '.Weir', 'dovecot-keywords'), '0 lime\n');
  writeFileSync(join(root, 'cur', '1:2,Sab'), 'Subject: one\n\n');
  writeFileSync(join(root, 'cur', '2:2,z'), 'Subject: two\n\n');
  writeFileSync(join(root, 'new', '3'), 'Subject: three\n\n');
  writeFileSync(join(root, '.Weir', 'cur', '4:2,aF'), 'Subject: four\n\n');
  expect(await flagsIn(root)).toEqual([
    ['Weir', ['\\flagged', 'lime']],
    ['INBOX', ['\\seen', '$label1', 'oak']],
    ['INBOX', []],
    ['INBOX', []],
  ]);
});

test('a file of keywords that is damaged, or written by somebody who means harm', () => {
  const keywords = readKeywords(
    '0 a\n26 beyond\n-1 before\n1 two words\n2 \n3 c"d\n4 \u0001\nsense\n25 z\n5 (x\n6 *\n',
  );
  expect([...keywords]).toEqual([
    ['a', 'a'],
    ['z', 'z'],
  ]);
  expect(keywordsIn('1:2,Saaz', keywords)).toEqual(['a', 'a', 'z']);
  expect(keywordsIn('__proto__', keywords)).toEqual([]);
});

test('letters are given until there are none left', () => {
  const keywords = new Map<string, string>();
  expect(letterFor('oak', keywords)).toBe('a');
  expect(letterFor('lime', keywords)).toBe('b');
  expect(letterFor('oak', keywords)).toBe('a');
  expect(letterFor('two words', keywords)).toBeNull();
  for (let n = 0; n < 24; n++) expect(letterFor(`k${n}`, keywords)).not.toBeNull();
  expect(letterFor('one more', keywords)).toBeNull();
  expect(letterFor('more', keywords)).toBeNull();
  expect(readKeywords(writtenKeywords(keywords))).toEqual(keywords);
});

test('what is fetched is read as it was, with its flags and keywords', async () => {
  const folder = await FetchedFolder.at(root, ['Weir', 'Levels']);
  const raw = Buffer.from('Subject: oak\r\n\r\nText.\r\n');
  await folder.add('7', { uid: 3, flags: ['\\seen', 'oak', '$forwarded'], raw, received: 1_700_000_000_000 });
  await folder.add('7', { uid: 4, flags: [], raw, received: null });
  const [first, second] = await folder.files();
  expect([first?.uid, second?.uid].sort()).toEqual([3, 4]);
  const four = (await folder.files()).find(({ uid }) => uid === 4);
  if (!four) throw new Error('it is not there');
  expect(await folder.setFlags(four, [])).toBe(false);
  expect(await folder.setFlags(four, ['lime', 'oak'])).toBe(true);
  const found = await flagsIn(root);
  expect(found.map(([name, flags]) => [name, [...flags].sort()])).toEqual([
    ['Weir/Levels', ['lime', 'oak']],
    ['Weir/Levels', ['$forwarded', '\\seen', 'oak']],
  ]);
  // Another run knows the letters.
  const again = await FetchedFolder.at(root, ['Weir', 'Levels']);
  expect([...again.keywords.values()]).toEqual(['oak', 'lime']);
});
