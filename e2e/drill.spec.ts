import { spawnSync } from 'node:child_process';
import { type APIRequestContext, expect, test } from '@playwright/test';
import { badRequests, routes } from '../drill/requests';
import { parallelUploads } from '../drill/uploads';

/** The parts of the drill that take less than a minute. */

async function begun(request: APIRequestContext): Promise<string> {
  const made = await request.post('/api/audits', { data: { name: 'Drill' } });
  return ((await made.json()) as { id: string }).id;
}

test('the same file six times at once is one file, of each kind', async ({ request, baseURL }) => {
  const id = await begun(request);
  for (const { name, statuses } of await parallelUploads(baseURL as string, id)) {
    expect([name, ...statuses]).toEqual([name, 201, 409, 409, 409, 409, 409]);
  }
  const audit = async () => (await (await request.get(`/api/audits/${id}/archive`)).json()) as { scripts: unknown[] };
  expect((await audit()).scripts).toHaveLength(2);
});

test('no bad request is a fault of the server', async ({ request, baseURL }) => {
  const id = await begun(request);
  await parallelUploads(baseURL as string, id, 1);
  expect(await badRequests(baseURL as string, routes('.'), id, 600)).toEqual([]);
});

test('a second server, and the seeding of the demo, leave the database alone and say who has it', () => {
  const env = { ...process.env, YSOMERIS_DATABASE: 'test-results/data/e2e.sqlite' };
  const next = ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', '3199'];
  for (const args of [next, ['dist/seed.mjs']]) {
    const { status, stderr } = spawnSync(process.execPath, args, { env, encoding: 'utf8', timeout: 60_000 });
    expect(status).toBe(1);
    expect(stderr).toMatch(/e2e\.sqlite is in use by the server \(process \d+, since 20/);
  }
});
