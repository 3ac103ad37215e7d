import { expect, test } from 'vitest';
import { keysOf } from '../text/lookup';
import { findingsDocument } from './findings-document';
import { KINDS } from './kind-words';

test('docs/findings.md is what the catalogue says', async () => {
  await expect(findingsDocument()).toMatchFileSnapshot('../../../docs/findings.md');
});

test('each kind has a title of two or three words and whole sentences', () => {
  for (const kind of keysOf(KINDS)) {
    const { title, meaning, why, remedy, example } = KINDS[kind];
    expect(title.split(' ').length, kind).toBeGreaterThan(1);
    expect(title.split(' ').length, kind).toBeLessThan(4);
    for (const sentence of [meaning, why, remedy, example]) expect(sentence).toMatch(/^[A-Z“].*\.$/);
  }
});
