import fc from 'fast-check';
import { expect, test } from 'vitest';
import { chainOf, smallFlow, smallRule } from '../agreement/small-chains';
import { asExcepting } from './excepting';
import { chainFromSieve } from './from-sieve';
import type { Rule } from './rule';

const ruleOf = (test_: string): Rule => {
  const [entry] = chainFromSieve(`if ${test_} { discard; }`).chain.entries;
  if (entry?.kind !== 'rule') throw new Error('no rule');
  return entry;
};
const oak = 'header :contains "subject" "oak"';
const lime = 'header :contains "subject" "lime"';

test.each([
  [`not ${lime}`, 0, 1],
  [`allof (true, not ${lime})`, 0, 1],
  [`allof (${oak}, not ${lime})`, 1, 1],
  [`allof (${oak}, allof (true, not ${lime}))`, 1, 1],
  [`allof (${oak}, anyof (not ${lime}))`, 1, 1],
  [`allof (${oak}, not anyof (${lime}, exists "x-tag"))`, 1, 2],
  [`allof (${oak}, not not ${lime})`, 2, 0],
  [`anyof (${oak}, not ${lime})`, 2, 0],
])('%s', (words, tests, exceptions) => {
  const rule = asExcepting(ruleOf(words));
  expect(rule.unless).toHaveLength(exceptions);
  expect(rule.tests.kind === 'leaf' ? 1 : rule.tests.children.length).toBe(tests);
  expect(asExcepting(rule)).toBe(rule);
});

test('matches the same messages', () => {
  fc.assert(
    fc.property(smallRule, (rule) => {
      const chain = chainOf([rule]);
      const after = { ...chain, entries: chain.entries.map((one) => (one.kind === 'rule' ? asExcepting(one) : one)) };
      const held = (one: typeof chain) => [...(smallFlow(one).entries[0]?.held.members() ?? [])];
      expect(held(after)).toEqual(held(chain));
    }),
  );
});
