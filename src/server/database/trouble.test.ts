import { closeSync, mkdtempSync, openSync, readFileSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeEach, expect, test } from 'vitest';
import { thrownAs } from '../../../test/given';
import { createAudit, listAudits } from '../audits/audits';
import { openOwned, openStore } from './open';
import { disown } from './owner';
import { DatabaseTrouble, maybeTrouble, type TroubleKind } from './trouble';

const root = mkdtempSync(join(tmpdir(), 'trouble-'));
afterAll(() => rmSync(root, { recursive: true, force: true }));

let file: string;
let count = 0;
/** A database with some audits in it, closed. */
beforeEach(() => {
  file = join(root, `${count++}.sqlite`);
  const store = openOwned(file, 'a test');
  for (let n = 0; n < 200; n++) createAudit(store, `audit ${n} ${'x'.repeat(500)}`);
  store.$client.close();
  disown(file);
});

function troubleNow(): TroubleKind | null {
  try {
    const store = openOwned(file, 'a test');
    expect(listAudits(store)).toHaveLength(200);
    store.$client.close();
    return null;
  } catch (error) {
    expect(error).toBeInstanceOf(DatabaseTrouble);
    return thrownAs(DatabaseTrouble, error).kind;
  } finally {
    disown(file);
  }
}

test('a sound database is no trouble, again and again', () => {
  expect(troubleNow()).toBeNull();
  expect(troubleNow()).toBeNull();
});

test('one that a later version has migrated is left as it is', () => {
  const store = openStore(file);
  store.$client.prepare("insert into __drizzle_migrations (hash, created_at) values ('later', ?)").run(9e12);
  store.$client.pragma('wal_checkpoint(truncate)');
  store.$client.close();
  const before = readFileSync(file);
  expect(troubleNow()).toBe('newer');
  expect(readFileSync(file).equals(before)).toBe(true);
});

test.each([
  ['its first octets', 0],
  ['a page in its middle', 60_000],
])('one that is damaged at %s is told, and works again once the file is put back', (_, at) => {
  const sound = readFileSync(file);
  const handle = openSync(file, 'r+');
  writeSync(handle, Buffer.alloc(5000, 0x5a), 0, 5000, at);
  closeSync(handle);
  expect(troubleNow()).toBe('damaged');
  writeFileSync(file, sound);
  expect(troubleNow()).toBeNull();
});

test('one that is cut off is damaged', () => {
  writeFileSync(file, readFileSync(file).subarray(0, 40_000));
  expect(troubleNow()).toBe('damaged');
});

test('a file that is none of SQLite is damaged', () => {
  writeFileSync(file, 'Dear all, the weir is open.\n'.repeat(500));
  expect(troubleNow()).toBe('damaged');
});

test('a file of another kind that is missing is no trouble of the database', () => {
  const trouble = (code: string) => maybeTrouble(Object.assign(new Error('words'), { code }), file)?.isOfDatabase;
  expect([trouble('ENOENT'), trouble('EACCES'), trouble('EISDIR')]).toEqual([false, false, false]);
  expect([trouble('SQLITE_CORRUPT'), trouble('SQLITE_CANTOPEN'), trouble('ENOSPC')]).toEqual([true, true, true]);
});

test.each([
  ['SQLITE_FULL', 'full'],
  ['ENOSPC', 'full'],
  ['EDQUOT', 'full'],
  ['SQLITE_READONLY', 'read-only'],
  ['SQLITE_READONLY_DIRECTORY', 'read-only'],
  ['EROFS', 'read-only'],
  ['SQLITE_CORRUPT_VTAB', 'damaged'],
  ['SQLITE_CANTOPEN', 'unreachable'],
  ['SQLITE_BUSY', null],
])('an error with the code %s', (code, kind) => {
  const error = Object.assign(new Error('words'), { code });
  expect(maybeTrouble(error, file)?.kind ?? null).toBe(kind);
  expect(maybeTrouble(new Error('outer', { cause: error }), file)?.kind ?? null).toBe(kind);
});
