import { describe, expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { check } from '../sieve/check';
import { parse } from '../sieve/parse';
import { chainFromSieve } from './from-sieve';
import { accountOf, forAccount } from './lists';
import type { Rule } from './rule';
import { sieveFromChain } from './to-sieve';

const ruleOf = (source: string): Rule => ruleAt(chainFromSieve(source).chain.entries, 0);
const textOf = (rule: Rule): string => sieveFromChain({ entries: [rule], closing: '' }).text;

describe('a rule for one account', () => {
  test.each([
    'if header :contains "subject" "oak" { keep; stop; }',
    'if allof (header :contains "subject" "oak", size :over 1K) { keep; stop; }',
    'if anyof (header :contains "subject" "oak", size :over 1K) { keep; stop; }',
    'if not exists "subject" { keep; stop; }',
    'if true { keep; stop; }',
  ])('%s: says so as a test, is a valid script, and becomes what it was', (source) => {
    const rule = ruleOf(source);
    expect(accountOf(rule)).toBeNull();
    const one = forAccount(rule, 'me@mill.example');
    const text = textOf(one);
    expect(text).toContain('envelope :is "to" "me@mill.example"');
    expect(check(parse(text).script)).toEqual([]);
    expect(accountOf(ruleOf(text))).toBe('me@mill.example');
    expect(accountOf(forAccount(one, 'other@mill.example'))).toBe('other@mill.example');
    expect(textOf(forAccount(one, null))).toBe(textOf(rule));
  });

  test('other tests of the envelope are no account', () => {
    for (const tested of [
      'envelope :is "from" "a@x.example"',
      'envelope :is "to" ["a@x.example", "b@x.example"]',
      'envelope :domain :is "to" "x.example"',
      'envelope :contains "to" "a@x.example"',
      'anyof (envelope :is "to" "a@x.example", size :over 1K)',
    ]) {
      expect(accountOf(ruleOf(`require "envelope"; if ${tested} { keep; }`)), tested).toBeNull();
    }
  });
});
