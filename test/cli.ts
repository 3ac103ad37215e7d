import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll } from 'vitest';

/** The command line, run on files in a folder that is deleted after the tests of a file. */
export const root = join(import.meta.dirname, '..');
export const folder = mkdtempSync(join(tmpdir(), 'cli-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

export function write(name: string, text: string): string {
  const file = join(folder, name);
  mkdirSync(join(file, '..'), { recursive: true });
  writeFileSync(file, text);
  return file;
}

export function cli(...args: string[]) {
  return cliOn('', ...args);
}

export function cliOn(input: string, ...args: string[]) {
  const env = { ...process.env, INIT_CWD: folder };
  const { status, stdout, stderr } = spawnSync(process.execPath, [join(root, 'scripts', 'cli.mjs'), ...args], {
    encoding: 'utf8',
    maxBuffer: 64 * 1024 * 1024,
    env,
    input,
  });
  return { status, out: stdout, err: stderr };
}
