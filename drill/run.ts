import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { askHostile } from './hostile';
import { kills } from './kills';
import { badRequests, routes } from './requests';
import { hostileScripts } from './scripts';
import { pause, Served } from './server';
import { parallelUploads } from './uploads';

/** Attacks and accidents, and whether the server withstands them: npm run drill [parts]. */

const root = mkdtempSync(join(tmpdir(), 'drill-'));
const lines: { readonly what: string; readonly tried: string; readonly held: boolean; readonly found: string }[] = [];
const tell = (what: string, tried: string, faults: readonly string[], found = '') => {
  lines.push({
    what,
    tried,
    held: faults.length === 0,
    found: faults.length > 0 ? faults.slice(0, 3).join('; ') : found,
  });
  console.log(
    `${faults.length === 0 ? 'held' : 'FAILED'}  ${what}: ${tried}${found || faults.length > 0 ? ` (${lines.at(-1)?.found})` : ''}`,
  );
};

/** The same numbers in every run: the generator of Park and Miller, CACM 31(10), 1988. */
function random(): number {
  seed = (seed * 48_271) % 2_147_483_647;
  return seed / 2_147_483_647;
}
let seed = Number(process.env.DRILL_SEED ?? 20_261_128);

const PARTS: Readonly<Record<string, () => Promise<void>>> = {
  kills: async () => {
    const all = await kills(root, 30, random);
    for (const work of new Set(all.map((one) => one.work))) {
      const own = all.filter((one) => one.work === work);
      const faults = own.flatMap((one) => one.faults.map((fault) => `after ${one.after} ms: ${fault}`));
      tell('killed', `${own.length} times in the middle of ${work}`, faults);
    }
  },
  two: async () => {
    const file = join(root, 'two.sqlite');
    const first = await Served.start(file);
    const env = { ...process.env, YSOMERIS_DATABASE: file };
    const next = ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', '3198'];
    for (const [name, args] of [
      ['a second server', next],
      ['the seeding of the demo', ['dist/seed.mjs']],
    ] as const) {
      const { status, stderr } = spawnSync(process.execPath, args, { env, encoding: 'utf8', timeout: 60_000 });
      const said = /in use by the server \(process \d+/.test(stderr);
      tell('two at once', name, status === 1 && said ? [] : [`it ended with ${status}: ${stderr.slice(0, 100)}`]);
    }
    await first.kill();
  },
  uploads: async () => {
    const server = await Served.start(join(root, 'uploads.sqlite'));
    for (let round = 0; round < 10; round++) {
      const id = await server.begin(`uploads ${round}`);
      for (const { name, statuses } of await parallelUploads(server.origin, id)) {
        const right = statuses.join(' ') === '201 409 409 409 409 409';
        if (!right || round === 9)
          tell('six at once', `${name}, round ${round + 1} of 10`, right ? [] : [statuses.join(' ')]);
      }
    }
    await server.kill();
  },
  requests: async () => {
    const server = await Served.start(join(root, 'requests.sqlite'));
    const id = await server.begin('requests');
    await parallelUploads(server.origin, id, 1);
    const wrong = await badRequests(server.origin, routes('.'), id, 1000);
    tell(
      'bad requests',
      '1,000 over all routes',
      wrong.map(({ request, status, words }) => `${status} ${request} ${words}`),
    );
    await server.kill();
  },
  mail: async () => {
    const server = await Served.start(join(root, 'mail.sqlite'));
    const id = await server.begin('mail servers');
    for (const { talk, status, seconds, words } of await askHostile(server, id)) {
      const right = status === 422 && seconds < 130;
      tell(
        'a mail server',
        talk,
        right ? [] : [`${status} after ${seconds} s: ${words}`],
        `${seconds.toFixed(1)} s: ${words}`,
      );
    }
    await server.kill();
  },
  scripts: async () => {
    const server = await Served.start(join(root, 'scripts.sqlite'));
    for await (const { script, status, seconds, longest, slowest } of hostileScripts(server)) {
      const right = status < 500 && seconds < 35 && longest < 3;
      const figures = `${status} after ${seconds.toFixed(1)} s, the first page in ${longest.toFixed(1)} s at most, pages of its own in ${slowest.toFixed(1)} s`;
      tell('a script', script, right ? [] : [figures], figures);
    }
    await server.kill();
  },
  disk: async () => {
    const place = join(root, 'disk');
    mkdirSync(place);
    if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=8m', 'tmpfs', place]).status !== 0) {
      console.log(
        'no file system can be mounted here: the full disk is left to the unit tests, which limit the pages of a database',
      );
      return;
    }
    try {
      const filling = join(place, 'filling');
      const fill = () => {
        try {
          writeFileSync(filling, Buffer.alloc(8 * 1024 * 1024));
        } catch {
          // It is full now.
        }
      };
      fill();
      const server = await Served.start(join(place, 'full.sqlite'));
      const told = await (await fetch(`${server.origin}/`)).text();
      tell('a full disk', 'at the start', told.includes('is full') ? [] : ['no page says so'], 'a page says so');
      rmSync(filling);
      await pause(5000);
      const { status } = await server.json('POST', '/api/audits', { name: 'x' });
      tell('a full disk', 'with room again, without a restart', status === 201 ? [] : [`${status}`]);
      fill();
      const refused = await server.json('POST', '/api/audits', { name: 'x'.repeat(200) });
      tell(
        'a full disk',
        'while it runs',
        refused.status < 500 || refused.status === 507 ? [] : [`${refused.status}`],
        `${refused.status}`,
      );
      await server.kill();
    } finally {
      spawnSync('umount', ['-l', place]);
    }
  },
};

const asked = process.argv.slice(2);
for (const [name, part] of Object.entries(PARTS)) {
  if (asked.length > 0 && !asked.includes(name)) continue;
  try {
    await part();
  } catch (error) {
    tell(name, 'as a whole', [error instanceof Error ? error.message : String(error)]);
  }
}
rmSync(root, { recursive: true, force: true });
console.log(`\n${lines.length} tried, ${lines.filter(({ held }) => held).length} held`);
process.exit(lines.every(({ held }) => held) ? 0 : 1);
