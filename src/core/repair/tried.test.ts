import { expect, test } from 'vitest';
import type { Finding } from '../audit/finding';
import { inOrderOfOffer, type Tried, tried } from './foresight';

const finding = (key: string, consequence: Finding['consequence'] = 'misplaced'): Finding => ({
  key,
  kind: 'runs-on',
  rules: [key],
  certainty: 'shown',
  consequence,
  claim: key,
  messages: [1],
  witness: null,
  strength: null,
  repairs: [],
});

test('a repair ends a finding when it is no longer stated, and is worse only by what is graver', () => {
  const brought = [finding('b', 'clutter'), finding('c', 'misplaced'), finding('d', 'lost')];
  const foresight = { ended: [], brought, passedOn: [] };
  expect(tried(finding('a'), brought, foresight)).toEqual({ ends: true, worse: [finding('d', 'lost')] });
  expect(tried(finding('a'), [finding('a')], { ...foresight, brought: [] })).toEqual({ ends: false, worse: [] });
});

test('to say the same of two rules the other way round is no end', () => {
  const conflict = (...rules: string[]): Finding => ({ ...finding(rules.join(' ')), kind: 'order-conflict', rules });
  const none = { ended: [], brought: [], passedOn: [] };
  expect(tried(conflict('a', 'b'), [conflict('b', 'a')], none).ends).toBe(false);
  expect(tried(conflict('a', 'b'), [conflict('b', 'c')], none).ends).toBe(true);
});

test('what ends it without harm comes first, then what is not known, then what has a price, then what does not end it', () => {
  const known: Record<string, Tried | null> = {
    vain: { ends: false, worse: [] },
    dear: { ends: true, worse: [finding('x', 'lost')] },
    unknown: null,
    good: { ends: true, worse: [] },
    fine: { ends: true, worse: [] },
  };
  expect(inOrderOfOffer(Object.keys(known), (name) => known[name] ?? null)).toEqual([
    'good',
    'fine',
    'unknown',
    'dear',
    'vain',
  ]);
});
