import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from 'esbuild';
import { afterAll, expect, test } from 'vitest';

const folder = mkdtempSync(join(tmpdir(), 'ending-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const THREADS = 150;

/** Threads that pack and unpack all the time, each with one of its own that does the same. */
const PACKING = `
import { parentPort } from 'node:worker_threads';
import { deflated, inflated } from './src/files/packing';
import { startThread } from './src/server/threads/thread';
const [, name] = /(outer|inner)\\.mjs$/.exec(import.meta.url) ?? [];
if (name === 'outer') startThread(${JSON.stringify(join(folder, 'inner.mjs'))});
const octets = Buffer.alloc(2000, 7);
const packed = deflated(octets);
parentPort?.postMessage('on');
for (;;) if (name === 'outer') inflated(packed); else deflated(octets);
`;

const ENDING = `
import { endThread, startThread } from './src/server/threads/thread';
for (let n = 0; n < ${THREADS}; n++) {
  const worker = startThread(${JSON.stringify(join(folder, 'outer.mjs'))});
  await new Promise((done) => worker.once('message', done));
  await new Promise((done) => setTimeout(done, n % 40));
  await endThread(worker);
}
console.log('alive');
process.exit(0);
`;

test('threads are ended while they and their own threads compress and unpack, and the process lives', async () => {
  for (const [name, contents] of [
    ['outer', PACKING],
    ['inner', PACKING],
    ['main', ENDING],
  ] as const) {
    await build({
      stdin: { contents, resolveDir: process.cwd(), loader: 'ts' },
      outfile: join(folder, `${name}.mjs`),
      bundle: true,
      platform: 'node',
      format: 'esm',
      logLevel: 'silent',
    });
  }
  const { stdout, stderr, status } = spawnSync(process.execPath, [join(folder, 'main.mjs')], { encoding: 'utf8' });
  expect({ stdout, stderr, status }).toEqual({ stdout: 'alive\n', stderr: '', status: 0 });
}, 120_000);
