import { createServer } from 'node:http';
import { expect, test } from 'vitest';
import { portOf } from '../../../test/given';
import { id, store, withAudit } from '../../../test/harness';
import { warmUp } from './warm-up';

withAudit();

test('every view of the newest audit is asked for once; what fails is passed over', async () => {
  const asked: string[] = [];
  const server = createServer(({ url }, response) => {
    asked.push(url ?? '');
    response.statusCode = url?.endsWith('/flows') ? 500 : 200;
    response.end('x');
  });
  await new Promise<void>((listening) => server.listen(0, '127.0.0.1', listening));
  await warmUp(store, `http://127.0.0.1:${portOf(server)}`);
  expect(asked[0]).toBe('/');
  expect(new Set(asked).size).toBe(asked.length);
  for (const view of ['chain', 'mail', 'flows', 'export']) expect(asked).toContain(`/audits/${id}/${view}`);
  expect(asked).toContain(`/api/audits/${id}/messages?limit=100`);
  await new Promise((closed) => server.close(closed));
});
