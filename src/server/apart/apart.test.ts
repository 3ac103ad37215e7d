import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { Refusal } from '../audits';
import { fill, id, root, store, withAudit } from '../harness';
import { messageView } from '../views/message';
import { apart } from './apart';
import { mayTakeLong } from './effort';

withAudit();
beforeEach(async () => {
  const application = mkdtempSync(join(root, 'application-'));
  mkdirSync(join(application, 'dist'));
  writeFileSync(
    join(application, 'dist', 'apart.worker.mjs'),
    `import { register } from ${JSON.stringify(import.meta.resolve('tsx/esm/api'))};
register();
await import(${JSON.stringify(join(import.meta.dirname, 'apart.worker.ts'))});
`,
  );
  await fill();
  vi.stubEnv('APP_ROOT', application);
});

afterEach(() => vi.unstubAllEnvs());

test('what is worked out apart is what is worked out here, again and again', async () => {
  for (let number = 0; number < 5; number++) {
    expect(await apart('message', id, number)).toEqual(messageView(store, id, number));
  }
  const octets = Buffer.from('# Weir\nif header "subject" "weir" { keep; }\nif vanish { keep; }\n');
  const all = await Promise.all(Array.from({ length: 6 }, () => apart('rules', 'a.sieve', octets)));
  for (const { chain, faults } of all) {
    expect(chain.entries.map(({ name }) => name)).toEqual(['Weir', 'Rule 2']);
    expect(faults.map(({ entry }) => entry)).toEqual([1]);
  }
});

test('a refusal of the work is a refusal here', async () => {
  await expect(apart('message', id, 99)).rejects.toThrow(Refusal);
  await expect(apart('message', id, 99)).rejects.toMatchObject({ status: 404, message: 'There is no such message.' });
});

test.each([
  [100, 10_000, false],
  [2000, 1_000_000, true],
])('an effort of %i on %i octets may take long: %s', (effort, octets, long) => {
  expect(mayTakeLong(effort, octets)).toBe(long);
});
