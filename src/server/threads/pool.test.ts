import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { fill, id, root, store, withAudit } from '../../../test/harness';
import { chainFromSieve } from '../../core/rules/from-sieve';
import { Refusal } from '../audits/audits';
import { messageView } from '../mail/message-view';
import { effortOf, mayTakeLong } from './cost';
import { apart } from './pool';

withAudit();
beforeEach(async () => {
  const application = mkdtempSync(join(root, 'application-'));
  mkdirSync(join(application, 'dist'));
  writeFileSync(
    join(application, 'dist', 'pool.worker.mjs'),
    `import { register } from ${JSON.stringify(import.meta.resolve('tsx/esm/api'))};
register();
await import(${JSON.stringify(join(import.meta.dirname, 'pool.worker.ts'))});
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

const keys = (count: number) => Array.from({ length: count }, (_, at) => `"word ${at}"`).join(', ');

test.each([
  [
    'sixty rules of ten keys on a letter',
    `if header :contains "subject" [${keys(10)}] { stop; }\n`.repeat(60),
    20_000,
    false,
  ],
  ['a test of the body on a megabyte', 'require "body";\nif body :contains "oak" { stop; }', 1_000_000, false],
  [
    'an expression on a megabyte',
    `require "regex";\nif header :regex "subject" "(a?a?a?a?)+b" { stop; }`,
    1_000_000,
    true,
  ],
  [
    'a long pattern on a megabyte',
    `if header :matches "subject" "*${'?a'.repeat(50_000)}*" { stop; }`,
    1_000_000,
    true,
  ],
  [
    'a thousand rules of a hundred keys on a letter',
    `if header "subject" [${keys(100)}] { stop; }\n`.repeat(1000),
    20_000,
    true,
  ],
])('%s may take long: %#', (_, script, octets, long) => {
  expect(mayTakeLong(effortOf(chainFromSieve(script).chain), octets)).toBe(long);
});
