import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, sep } from 'node:path';

/**
 * Requests that no page of ours makes: each must be answered in one plain sentence, and none may cause an internal
 * error.
 */

export interface Route {
  readonly method: string;
  /** With its parameters in square brackets. */
  readonly path: string;
}

/** All routes, from their files. */
export function routes(root: string): Route[] {
  const folder = join(root, 'src', 'app', 'api');
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('route.ts'))
    .flatMap((name) => {
      const source = readFileSync(join(folder, name), 'utf8');
      const path = `/api/${dirname(name).split(sep).join('/')}`;
      return [...source.matchAll(/^export const (GET|POST|PUT|DELETE)\b/gm)].map(([, method]) => {
        return { method: method as string, path };
      });
    });
}

/** Values for ids in addresses. */
const IDS = [
  'none',
  '%00',
  '%ff',
  '%0d%0aX-Injected:%201',
  '..%2f..%2fetc%2fpasswd',
  'constructor',
  '-1',
  '1e309',
  '%F0%9F%8C%8A',
  'x'.repeat(3000),
];

/** Values for bodies. */
const BODIES: readonly (() => string)[] = [
  () => '',
  () => 'null',
  () => '[]',
  () => '"words"',
  () => '{',
  () => `${'['.repeat(100_000)}${']'.repeat(100_000)}`,
  () => `${'{"tests":'.repeat(5000)}1${'}'.repeat(5000)}`,
  () => '{"name":"a\\u0000b","text":"\\u0000","path":"/\\u0000","edits":[],"why":"\\u0000","reason":"\\u0000"}',
  () => '{"name":"\\ud800","text":"\\udc00 half","path":"/\\ud800","addresses":["\\ud800"]}',
  () => '{"__proto__":{"name":"x"},"constructor":1}',
  () =>
    JSON.stringify({
      edits: [{ kind: 'rewrite', from: 0, before: [], after: [deep(300)], closing: { before: '', after: '' } }],
      why: '',
    }),
  () => JSON.stringify({ name: 'x'.repeat(1_000_000), text: 'x'.repeat(2_000_000), ids: Array(10_000).fill('r1') }),
  () => JSON.stringify({ kind: 'verify', finding: 'none', step: 'up', time: 1e300, from: -1, to: Number.MAX_VALUE }),
];

/** A rule whose tests are nested. */
function deep(levels: number): unknown {
  let tests: unknown = { kind: 'leaf', test: { test: 'exists', headers: ['x'] } };
  for (let level = 0; level < levels; level++) tests = { kind: 'all', children: [tests] };
  return {
    kind: 'rule',
    id: 'x',
    name: 'x',
    note: '',
    on: true,
    tests,
    unless: [],
    actions: [],
    ending: 'stop',
    link: 'always',
  };
}

const QUERIES = ['', '?number=-1&rule=%00', '?message=x&fate=%ff&limit=999999999', '?form=none&destination=%ED%A0%80'];

/** Percent-encoded, as the name of a file is. */
const NAMES = ['%ff', '%00', 'a'.repeat(400), '%0a'];

export interface BadAnswer {
  readonly request: string;
  readonly status: number;
  readonly words: string;
}

/**
 * Sends `count` bad requests to all routes of the server at `origin`, some about an existing audit; returns unexpected
 * responses.
 */
export async function badRequests(
  origin: string,
  all: readonly Route[],
  auditId: string,
  count: number,
): Promise<BadAnswer[]> {
  const wrong: BadAnswer[] = [];
  for (let at = 0; at < count; at++) {
    const { method, path } = all[at % all.length] as Route;
    const round = Math.floor(at / all.length);
    const id = IDS[(at + round) % IDS.length] as string;
    let first = true;
    const address = path.replace(/\[\w+\]/g, () => {
      const isAudit = first && path.startsWith('/api/audits/');
      first = false;
      // Every second one concerns something in an existing audit.
      return isAudit && at % 2 === 0 ? auditId : id;
    });
    const isStream = path.endsWith('/events');
    if (isStream || (method === 'DELETE' && address === `/api/audits/${auditId}`)) continue;
    const query = QUERIES[round % QUERIES.length] as string;
    const body = method === 'GET' ? null : (BODIES[(at + 3 * round) % BODIES.length] as () => string)();
    const headers = new Headers({ 'content-type': 'application/json' });
    if (/files|reading|archive/.test(path)) headers.set('x-file-name', NAMES[at % NAMES.length] as string);
    const answer = await fetch(`${origin}${address}${query}`, {
      method,
      headers,
      ...(body === null ? {} : { body }),
    }).catch((error: Error) => error);
    const request = `${method} ${address.slice(0, 80)}${query} ${body?.slice(0, 60) ?? ''}`;
    if (answer instanceof Error) {
      wrong.push({ request, status: 0, words: String(answer.cause ?? answer) });
      continue;
    }
    const words = (await answer.text()).slice(0, 200);
    if (answer.status >= 500) wrong.push({ request, status: answer.status, words });
  }
  return wrong;
}
