import { createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';

/** The name under which standard input is given. */
export const STANDARD_INPUT = '-';

let spooled: Promise<string> | null = null;

/** Where a file that was given by name lies. Standard input is written to a file first, since it may be read more than once. */
export function localPath(path: string): Promise<string> {
  if (path !== STANDARD_INPUT) return Promise.resolve(fromHere(path));
  spooled ??= spool();
  return spooled;
}

/** npm runs scripts in the project's folder; paths are meant from where the user stands. */
const fromHere = (path: string): string => resolve(process.env.INIT_CWD ?? process.cwd(), path);

async function spool(): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'ysomeris-'));
  process.once('exit', () => rmSync(folder, { recursive: true, force: true }));
  const file = join(folder, 'input');
  await pipeline(process.stdin, createWriteStream(file, { flags: 'wx', mode: 0o600 }));
  return file;
}
