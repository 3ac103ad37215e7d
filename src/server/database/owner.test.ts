import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { afterAll, afterEach, describe, expect, test } from 'vitest';
import { DatabaseInUse, disown, own } from './owner';

const root = mkdtempSync(join(tmpdir(), 'owner-'));
const file = join(root, 'test.sqlite');
const children: ChildProcess[] = [];

afterEach(() => {
  disown(file);
  for (const child of children.splice(0)) child.kill('SIGKILL');
});
afterAll(() => rmSync(root, { recursive: true, force: true }));

/** A second process that tries to own the file, and stays; its first line reports the outcome. */
async function another(work: string): Promise<{ readonly child: ChildProcess; readonly said: string }> {
  const script = join(root, 'another.mts');
  writeFileSync(
    script,
    `import { own } from '${import.meta.dirname}/owner';
try { own(${JSON.stringify(file)}, process.argv[2]); console.log('owns it'); } catch (error) { console.log(error.message); }
setInterval(() => {}, 1000);`,
  );
  const child = spawn(process.execPath, ['--import', 'tsx', script, work], { stdio: ['ignore', 'pipe', 'inherit'] });
  children.push(child);
  const [said] = (await once(createInterface(child.stdout), 'line')) as [string];
  return { child, said };
}

describe('a database has one owner', () => {
  test('while one process has it, another is told who, by process and work', async () => {
    const { child, said } = await another('the seeding of the demo');
    expect(said).toBe('owns it');
    expect(() => own(file, 'the server')).toThrow(DatabaseInUse);
    expect(() => own(file, 'the server')).toThrow(
      new RegExp(`in use by the seeding of the demo \\(process ${child.pid}, since 20`),
    );
  });

  test('a process that was killed has it no longer', async () => {
    const { child } = await another('the server');
    child.kill('SIGKILL');
    await once(child, 'exit');
    own(file, 'the next server');
    expect((await another('one more')).said).toContain(`in use by the next server (process ${process.pid},`);
  });

  test('the owner may ask again', () => {
    own(file, 'the server');
    own(file, 'the server');
  });

  test('of six that ask at once one has it, and all others are told that one', async () => {
    const all = await Promise.all(Array.from({ length: 6 }, (_, n) => another(`server ${n}`)));
    const owners = all.filter(({ said }) => said === 'owns it');
    expect(owners).toHaveLength(1);
    for (const { said } of all)
      if (said !== 'owns it') expect(said).toMatch(/is in use by (server \d|another process)/);
  });
});
