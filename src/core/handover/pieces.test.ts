import { describe, expect, test } from 'vitest';
import { given, ruleAt } from '../../../test/given';
import { chainFromSieve } from '../rules/from-sieve';
import { leavesOf } from '../rules/rule';
import { sentenceOf } from '../rules/sentence';
import { notPortable } from './not-portable';
import type { Cost } from './rewrite';
import { TRANSFORMATIONS } from './rewriting/table';
import { byTests, escaped, leaf, needs, withActions, withTests } from './rewriting/transformation';
import { constantsOf, withoutVariables } from './rewriting/variables';
import { EVERYTHING } from './target';

const HEAD = 'require ["fileinto", "copy", "imap4flags", "relational", "subaddress", "envelope", "variables"];\n';
const chainOf = (script: string) => chainFromSieve(HEAD + script).chain;
const ruleOf = (script: string) => ruleAt(chainOf(script).entries, 0);
const SETTINGS = { target: EVERYTHING, refused: 'dropped' } as const;

describe('ways to say a rule without a capability', () => {
  test('each capability has one row, and one that needs another capability stands before it', () => {
    const names = TRANSFORMATIONS.map(({ without }) => without);
    expect(new Set(names).size).toBe(names.length);
    for (const [first, second] of [
      ['index', 'date'],
      ['date', 'relational'],
      ['vacation-seconds', 'vacation'],
      ['ereject', 'reject'],
      ['special-use', 'fileinto'],
      ['fileinto', 'copy'],
    ] as const) {
      expect([first, names.indexOf(first) < names.indexOf(second)]).toEqual([first, true]);
    }
  });

  test('none changes a rule that does not need its capability, nor costs anything there', () => {
    const plain = ruleOf('if header :contains "subject" "oak" { stop; }');
    for (const { without, rewrite } of TRANSFORMATIONS) {
      const rewritten = rewrite(plain, SETTINGS);
      expect([without, rewritten?.rule]).toEqual([without, plain]);
    }
  });

  test('the tests of a rule and of its exceptions are changed; where one cannot be, there is no such rule', () => {
    const rule = ruleOf('if allof (exists "a", not exists "b") { stop; }');
    const renamed = withTests(rule, (own) => leaf(own.test === 'exists' ? { ...own, headers: ['c'] } : own));
    expect(sentenceOf(given(renamed))).toBe('When the field C is present, unless the field C is present: stop.');
    expect(withTests(rule, (own) => (own.test === 'exists' && own.headers[0] === 'b' ? null : leaf(own)))).toBeNull();
  });

  test('only tests that need the capability are put in another way', () => {
    const rule = ruleOf('if anyof (address :detail :is "to" "lists", exists "a") { stop; }');
    const [detail, exists] = leavesOf(rule.tests);
    expect([needs(given(detail), 'subaddress'), needs(given(exists), 'subaddress')]).toEqual([true, false]);
    const { rewrite } = byTests('subaddress', 'something', () => leaf({ test: 'exists', headers: ['b'] }));
    expect(sentenceOf(given(rewrite(rule, SETTINGS)).rule)).toContain(
      'the field B is present or the field A is present',
    );
  });

  test('an action may become several, or none', () => {
    const rule = ruleOf('if true { fileinto :copy "Oak"; stop; }');
    expect(withActions(rule, () => []).actions).toEqual([]);
    expect(withActions(rule, (action) => [action, { action: 'keep', flags: null }]).actions).toHaveLength(2);
  });

  test('what stands for itself in a form', () => {
    expect(escaped('a*b?c\\d')).toBe('a\\*b\\?c\\\\d');
  });
});

describe('variables that never change', () => {
  test('stand where they were referred to', () => {
    const chain = chainOf(
      'set "name" "Oak";\nif header :matches "subject" "*" { fileinto "${name}"; fileinto "x${1}"; }\nif exists "a" { fileinto "${name}/a"; }',
    );
    const constants = constantsOf(chain);
    expect([...constants].map(([name, { value }]) => [name, value])).toEqual([['name', 'Oak']]);
    const blocks = chain.entries.flatMap((entry, place) => (entry.kind === 'script' ? [{ entry, place }] : []));
    const texts = blocks.map(({ entry, place }) => withoutVariables(entry, place, constants)?.text ?? null);
    // The result of a match differs from message to message.
    expect(texts.filter((text) => text?.includes('${'))).toEqual([]);
    expect(texts).toContain('if exists "a" {\n    fileinto "Oak/a";\n}');
    expect(texts).toContain(null);
  });

  test('one that is set twice, or under a condition, is no constant', () => {
    for (const script of [
      'set "name" "Oak"; set "name" "Elm"; if true { fileinto "${name}"; }',
      'if exists "a" { set "name" "Oak"; } if true { fileinto "${name}"; }',
    ]) {
      expect([...constantsOf(chainOf(script)).keys()]).toEqual([]);
    }
  });
});

describe('what cannot be exported', () => {
  const chain = chainOf('# Oak\nif exists "a" { fileinto "Oak"; }');
  const [entry] = chain.entries;
  const cost: Cost = {
    id: given(entry).id,
    name: 'Oak',
    kind: 'changed',
    words: 'it is filed nowhere',
    without: 'fileinto',
    decided: null,
    ways: [],
  };
  const found = (known: { messages: readonly number[]; weighed: boolean; none: boolean }) =>
    notPortable(chain, [cost], () => known);

  test('is one finding for each rule, as sure as what is known of it', () => {
    expect(found({ messages: [1, 2], weighed: true, none: false })).toMatchObject([
      { kind: 'not-portable', certainty: 'shown', messages: [1, 2], rules: [cost.id] },
    ]);
    expect(found({ messages: [1], weighed: false, none: false })).toMatchObject([{ certainty: 'observed' }]);
    expect(found({ messages: [], weighed: true, none: false })[0]?.repairs.length).toBeGreaterThan(0);
  });

  test('is nothing where it is proved to change nothing, or where the rule is gone', () => {
    expect(found({ messages: [], weighed: true, none: true })).toEqual([]);
    const other = { ...cost, id: 'gone' };
    expect(notPortable(chain, [other], () => ({ messages: [1], weighed: true, none: false }))).toEqual([]);
  });
});
