import { describe, expect, test } from 'vitest';
import { given, ruleAt } from '../../test/given';
import { chainFromSieve } from '../core/rules/from-sieve';
import type { Rule } from '../core/rules/rule';
import { chainShape, limitFault } from './chain-shape';

const [entry] = chainFromSieve('# Oak\nif header :contains "subject" "oak" { stop; }').chain.entries;
const rule = ruleAt([given(entry)], 0);
const many = <T>(count: number, item: T): T[] => Array.from({ length: count }, () => item);
const chainOf = (...entries: Rule[]) => ({ entries, closing: '' });

describe('the limits of what comes in', () => {
  test.each([
    [
      'a long name',
      chainOf({ ...rule, name: 'x'.repeat(10_001) }),
      /^in “x{80}” a name is longer than 10,000 characters$/,
    ],
    [
      'many actions',
      chainOf({ ...rule, actions: many(10_001, { action: 'discard' } as const) }),
      /more than 10,000 actions/,
    ],
    [
      'many rules',
      chainOf(...Array.from({ length: 20_001 }, (_, at) => ({ ...rule, id: `r${at}` }))),
      /more than 20,000 rules/,
    ],
    [
      'many keys',
      chainOf({
        ...rule,
        tests: {
          kind: 'leaf',
          test: { test: 'header', headers: ['subject'], match: 'is', comparator: 'i;octet', keys: many(100_001, 'x') },
        },
      }),
      /in “Oak” a list has more than 100,000 items/,
    ],
  ])('%s is told, with the rule', (_, chain, words) => {
    expect(limitFault(chain)).toMatch(words);
  });

  test('what keeps to them is what an archive may hold', () => {
    const chain = chainOf({ ...rule, name: 'x'.repeat(10_000), actions: many(10_000, { action: 'discard' } as const) });
    expect(limitFault(chain)).toBeNull();
    expect(chainShape.safeParse(JSON.parse(JSON.stringify(chain))).success).toBe(true);
  });
});
