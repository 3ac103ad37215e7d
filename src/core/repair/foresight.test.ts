import { expect, test } from 'vitest';
import type { Finding } from '../audit/finding';
import { foresee } from './foresight';

const finding = (key: string, change: Partial<Finding> = {}): Finding => ({
  key,
  kind: 'cut-short',
  rules: key.split(' '),
  certainty: 'shown',
  consequence: 'unseen',
  claim: key,
  messages: [1, 2],
  witness: null,
  strength: null,
  repairs: [],
  ...change,
});
const keys = (before: readonly Finding[], after: readonly Finding[], changed = [1, 2, 3]) => {
  const { ended, brought, passedOn } = foresee(before, after, new Set(changed));
  return {
    ended: ended.map(({ key }) => key),
    brought: brought.map(({ key }) => key),
    passedOn: passedOn.map(({ key }) => key),
  };
};

test('what is stated before and after is neither ended nor brought', () => {
  expect(keys([finding('a b')], [finding('a b', { messages: [3] })])).toEqual({ ended: [], brought: [], passedOn: [] });
});

test('what is stated of other mail is', () => {
  const after = finding('c b', { messages: [2, 3] });
  expect(keys([finding('a b')], [after])).toEqual({ ended: ['a b'], brought: ['c b'], passedOn: [] });
});

test('the same, said of the same mail by another rule, is passed on', () => {
  const [before, after] = [finding('a b', { messages: [1, 2, 3] }), finding('c b', { messages: [1, 3] })];
  expect(keys([before], [after])).toEqual({ ended: ['a b'], brought: [], passedOn: ['c b'] });
  expect(keys([after], [before])).toEqual({ ended: [], brought: ['a b'], passedOn: [] });
});

test('a graver consequence is not the same', () => {
  const lost = finding('c b', { consequence: 'lost' });
  expect(keys([finding('a b')], [lost])).toEqual({ ended: ['a b'], brought: ['c b'], passedOn: [] });
});

test('what is proved of rules is not passed on with mail', () => {
  const proved = (key: string) => finding(key, { kind: 'redundant', certainty: 'proved' });
  expect(keys([proved('a')], [proved('c')])).toEqual({ ended: ['a'], brought: ['c'], passedOn: [] });
});

test('overlaps, and what only a made-up message shows, are left out', () => {
  const madeUp = { open: 'x', size: 1, from: null, to: null };
  const some = [finding('a b', { kind: 'overlap' }), finding('c d', { messages: [], witness: madeUp })];
  expect(keys(some, [])).toEqual({ ended: [], brought: [], passedOn: [] });
});

test('what becomes of mail is not worse where it becomes the same of it by another rule', () => {
  const after = finding('c', { kind: 'unprotected', messages: [1, 2] });
  expect(keys([], [after], [3])).toEqual({ ended: [], brought: [], passedOn: ['c'] });
  expect(keys([], [after], [2])).toEqual({ ended: [], brought: ['c'], passedOn: [] });
  // Rules that cut each other short are reported as an order conflict.
  expect(keys([], [finding('c')], [3])).toEqual({ ended: [], brought: ['c'], passedOn: [] });
});
