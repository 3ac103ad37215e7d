import { expect, test } from 'vitest';
import { addFile, id, simulated, store, withAudit } from '../../../test/harness';
import { shown } from './shortened';
import { chainView } from './view';

withAudit();

test('a text is cut between words, and says how much is missing', () => {
  expect(shown('oak and elm', 11)).toBe('oak and elm');
  expect(shown('oak and elm', 9)).toBe('oak and … (4 characters more)');
  expect(shown('k'.repeat(3000), 1000)).toBe(`${'k'.repeat(1000)} … (2,000 characters more)`);
});

test('a chain with a hundred thousand keys is a page of some kilobytes', async () => {
  const keys = Array.from({ length: 100_000 }, (_, at) => `"key ${at}"`).join();
  await addFile('rules.sieve', `# Many\nif header :contains "subject" [${keys}] { discard; }\n`);
  await simulated();
  const view = chainView(store, id);
  expect(view.rungs[0]?.text).toMatch(/characters more\)$/);
  expect(JSON.stringify(view).length).toBeLessThan(50_000);
});
