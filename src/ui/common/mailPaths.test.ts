import { expect, test } from 'vitest';
import type { TestTree } from '../../core/rules/rule';
import { messageQueryShape } from '../../server/http/shapes';
import { heldPath, trialPath } from './mailPaths';

const contains = (...keys: string[]): TestTree => ({
  kind: 'leaf',
  test: { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap', keys },
});

/** What the list of messages reads in the address. */
const asRead = (path: string | null) =>
  messageQueryShape.parse(Object.fromEntries(new URL(path ?? '', 'http://x.example').searchParams));

test('tests of any words stand in an address, and are read there as they were', () => {
  for (const keys of [['oak'], ['a&b=c#d?e'], ['"', '\\', '%25'], ['漢字 🌳'], ['+ ']]) {
    const path = heldPath('demo', contains(...keys));
    expect(path).toMatch(/^\/audits\/demo\/mail\?/);
    expect(asRead(path)).toMatchObject({ tests: contains(...keys) });
  }
});

test('what a change would move is asked for by the change and the two places', () => {
  const edits = [{ kind: 'switch', id: 'r1', on: false }] as const;
  expect(asRead(trialPath('demo', edits, { was: 'inbox', becomes: 'folder:Oak', flags: '1' }))).toMatchObject({
    trying: edits,
    was: 'inbox',
    becomes: 'folder:Oak',
  });
  expect(asRead(trialPath('demo', edits, { written: 'r1', does: 'lost' }))).toMatchObject({
    written: 'r1',
    does: 'lost',
  });
});

test('there is no address for what would be too long for one', () => {
  expect(heldPath('demo', contains(...Array.from({ length: 400 }, (_, n) => `person-${n}@x.example`)))).toBeNull();
});
