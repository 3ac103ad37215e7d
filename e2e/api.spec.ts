import { request as ask } from 'node:http';
import { type APIRequestContext, expect, test } from '@playwright/test';
import { routes } from '../drill/requests';

/** Every route, from its file: whom it answers, and how it handles invalid requests. */

const ROUTES = routes('.');
/** Stays open until the page is left. */
const isStream = ({ path }: { path: string }) => path.endsWith('/events');

const placed = (path: string, id: string) =>
  path
    .replace('audits/[id]', `audits/${id}`)
    .replace(/\[(number|version|probe|script|expectation|answer|source|id)\]/g, '7');

async function begun(request: APIRequestContext): Promise<string> {
  const made = await request.post('/api/audits', { data: { name: 'To be asked' } });
  const { id } = (await made.json()) as { id: string };
  const script = 'require "fileinto";\n# Oak\nif header :contains "subject" "oak" { fileinto "Oak"; }\n';
  const brought = await request.post(`/api/audits/${id}/files`, {
    headers: { 'x-file-name': 'rules.sieve', 'content-type': 'application/octet-stream' },
    data: Buffer.from(script),
  });
  expect(brought.ok()).toBe(true);
  return id;
}

const ELSEWHERE: readonly Record<string, string>[] = [
  { origin: 'http://evil.example' },
  { origin: 'null' },
  { 'sec-fetch-site': 'cross-site' },
];

/** The saved state of an audit; settings of its script may be set again to the same values. */
async function kept(request: APIRequestContext, id: string): Promise<object> {
  const { handover: _chosen, ...rest } = await (await request.get(`/api/audits/${id}/archive`)).json();
  return rest;
}

test('all routes are known', () => {
  expect(ROUTES.length).toBeGreaterThan(50);
});

test('no route answers under another name, none changes anything for a page of elsewhere', async ({
  request,
  baseURL,
}) => {
  const id = await begun(request);
  const before = await kept(request, id);
  const { port } = new URL(baseURL as string);
  for (const { method, path } of ROUTES) {
    const url = placed(path, id);
    const status = await new Promise<number | undefined>((resolve, reject) => {
      const headers = { host: `evil.example:${port}` };
      const sent = ask({ host: '127.0.0.1', port, path: url, method, headers }, (answer) => {
        resolve(answer.statusCode);
        answer.destroy();
      });
      sent.on('error', reject).end();
    });
    expect([method, url, status]).toEqual([method, url, 403]);
    if (method === 'GET') continue;
    for (const headers of ELSEWHERE) {
      const answer = await request.fetch(url, { method, headers, data: {} });
      expect([method, url, answer.status()]).toEqual([method, url, 403]);
    }
  }
  expect(await kept(request, id)).toEqual(before);
});

const DEEP = `${'['.repeat(20_000)}${']'.repeat(20_000)}`;
const JUNK: readonly string[] = [
  '',
  '{"edits":',
  'null',
  '7',
  '"x"',
  '[]',
  '{}',
  DEEP,
  `{"edits":${DEEP}}`,
  '{"__proto__":{"edits":[]},"edits":[{"kind":"vanish"}]}',
  '{"edits":[{"kind":"switch","id":"none","on":false}],"why":""}',
  '{"edits":[{"kind":"rewrite","from":-1,"before":[],"after":[],"closing":null}],"why":7}',
  `{"name":"${'x'.repeat(100_000)}"}`,
  '{"name":7,"text":"\\u0000","expected":7}',
  '{"rule":{"kind":"rule"},"begun":null,"behind":"\\ud800"}',
  '{"target":"vanish","capabilities":[7],"limits":{"strings":-1}}',
  '{"path":"/nowhere/\\u0000"}',
  '{"path":"../../../../../etc/passwd\\u0000.mbox"}',
];
const ASKED: readonly string[] = [
  'limit=-1',
  'offset=1e99',
  'rule=none&part=fired',
  'finding=%00',
  `tests=${encodeURIComponent(DEEP.slice(0, 1000))}`,
  'trying=%5B%7B%7D%5D',
  'trying=%5B%5D&written=none',
  'between=baseline..999999999',
  'was=x&becomes=y&flags=1',
  'costs=1',
  'passing=foot',
  'refiled=%5B%22x%22%5D',
  'refiled=%7B%22place%22%3A%22none%22%2C%22part%22%3A%22left%22%2C%22of%22%3A%22unread%22%7D',
  'refiled=%7B%22rule%22%3A%22none%22%2C%22from%22%3A%5B%5D%2C%22to%22%3A%5B%5D%7D',
  'conversation=99999',
  'source=none&file=9',
  'form=vanish',
  'a=none&b=none',
  'search=%22%2A%20NEAR%28',
];

test('what is no request is told in one sentence, and changes nothing', async ({ request }) => {
  test.setTimeout(300_000);
  const id = await begun(request);
  const before = await kept(request, id);
  for (const route of ROUTES) {
    const { method, path } = route;
    if (isStream(route) || path === '/api/standin' || (method === 'DELETE' && path === '/api/audits/[id]')) continue;
    const url = placed(path, id);
    const wrong: [string, number, string][] = [];
    const look = async (words: string, answer: Awaited<ReturnType<APIRequestContext['fetch']>>) => {
      const status = answer.status();
      if (status < 500 && (status < 400 || (await answer.text()).startsWith('{"error":"'))) return;
      wrong.push([words, status, (await answer.text()).slice(0, 200)]);
    };
    if (method === 'GET') {
      for (const query of ASKED) await look(query, await request.get(`${url}?${query}`));
    } else {
      for (const data of JUNK) {
        const headers = { 'content-type': 'application/json', 'x-file-name': '%E0%A4%A' };
        await look(data.slice(0, 80), await request.fetch(url, { method, headers, data: Buffer.from(data) }));
      }
    }
    expect([method, url, wrong]).toEqual([method, url, []]);
  }
  expect(await kept(request, id)).toEqual(before);
});
