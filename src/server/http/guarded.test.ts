import { describe, expect, test } from 'vitest';
import { withAudit } from '../../../test/harness';
import { guarded, readJson } from './guarded';
import { auditNameShape, editsShape } from './shapes';

withAudit();

describe('the gate of the route handlers', () => {
  const answer = guarded<undefined>(async (request) => Response.json(await readJson(request, auditNameShape)));
  const ask = (headers: Record<string, string>, text = '{"name":"x"}') =>
    answer(new Request('http://h/', { method: 'POST', body: text, headers }), undefined);
  const home = { host: '127.0.0.1:3000' };

  test.each([
    ['this machine', { ...home, origin: 'http://127.0.0.1:3000' }, 200],
    ['no browser', home, 200],
    ['a foreign page', { ...home, origin: 'http://evil.example' }, 403],
    ['another port', { ...home, origin: 'http://127.0.0.1:4000' }, 403],
    ['a page without a name', { ...home, origin: 'null' }, 403],
    ['a foreign name for this machine', { host: 'evil.example', origin: 'http://evil.example' }, 403],
  ])('%s', async (_who, headers, status) => {
    expect((await ask(headers)).status).toBe(status);
  });

  test('what is not well formed is told', async () => {
    expect((await ask(home, '{')).status).toBe(400);
    expect(await (await ask(home, '{"name":""}')).json()).toMatchObject({ error: expect.stringContaining('name') });
    expect(editsShape.safeParse({ edits: [{ kind: 'move', ids: [], from: 0, to: 0, withinRun: false }] }).success).toBe(
      false,
    );
  });
});
