import { describe, expect, test } from 'vitest';
import { readWrittenAction, readWrittenTest } from '../rules/as-written';
import { bodyTest } from '../rules/known-comparisons';
import { wordsOfTest } from '../rules/nodes';
import type { Action, LeafTest, Rule, TestTree } from '../rules/rule';
import { ruleFaults } from './rule-faults';
import { dateTest, type FormId, formOf, maybeDate, TEST_FORMS } from './test-forms';

const leaf = (one: LeafTest): TestTree => ({ kind: 'leaf', test: one });
const subject = (keys: readonly string[], match: 'is' | 'contains' | 'matches' = 'contains'): TestTree =>
  leaf({ test: 'header', headers: ['subject'], match, comparator: 'i;ascii-casemap', keys });
const filed: Action = { action: 'fileinto', folder: 'Oak', copy: false, flags: null };
const rule = (change: Partial<Rule>): Rule => ({
  kind: 'rule',
  id: 'r',
  name: 'Oak',
  note: '',
  on: true,
  tests: subject(['oak']),
  unless: [],
  actions: [filed],
  ending: 'stop',
  link: 'always',
  ...change,
});
const told = (change: Partial<Rule>) => ruleFaults(rule(change)).map(({ at, grave }) => `${at}${grave ? '!' : ''}`);

describe('what is said of a rule before it is kept', () => {
  test('nothing of a sound one', () => expect(told({})).toEqual([]));

  test.each<[string, Partial<Rule>, string[]]>([
    ['no name', { name: '  ' }, ['name!']],
    ['a note of what only a desk can do', { note: 'Anything\nOn the desk: play a sound' }, ['actions']],
    ['no test', { tests: { kind: 'all', children: [] } }, ['tests']],
    ['none of no tests', { tests: { kind: 'any', children: [] } }, ['tests']],
    [
      'an empty branch',
      { tests: { kind: 'all', children: [subject(['oak']), { kind: 'any', children: [] }] } },
      ['tests.1', 'tests'],
    ],
    ['no words', { tests: subject([]) }, ['tests!']],
    [
      'empty words',
      {
        tests: {
          kind: 'any',
          children: [
            subject(['oak']),
            leaf({
              test: 'address',
              headers: ['from'],
              part: 'all',
              match: 'contains',
              comparator: 'i;ascii-casemap',
              keys: [''],
            }),
          ],
        },
      },
      [],
    ],
    [
      'empty words, or no field',
      {
        tests: {
          kind: 'any',
          children: [
            subject([''], 'contains'),
            { kind: 'none', children: [leaf({ test: 'exists', headers: ['subject'] })] },
          ],
        },
      },
      ['tests'],
    ],
    ['a header that cannot be', { tests: leaf({ test: 'exists', headers: ['X Tag:'] }) }, ['tests!']],
    ['no header', { tests: leaf({ test: 'exists', headers: [] }) }, ['tests!']],
    ['no size', { tests: leaf({ test: 'size', relation: 'over', octets: Number.NaN }) }, ['tests!']],
    ['no action', { actions: [] }, ['actions']],
    ['no folder', { actions: [{ ...filed, folder: ' ' }] }, ['actions.0!']],
    ['a folder with a control character', { actions: [{ ...filed, folder: 'Oak\u0007' }] }, ['actions.0!']],
    ['a folder of 500 characters', { actions: [{ ...filed, folder: 'o'.repeat(500) }] }, ['actions.0']],
    ['no address', { actions: [{ action: 'redirect', address: 'Ann', copy: true }] }, ['actions.0!']],
    [
      'two addresses',
      { actions: [{ action: 'redirect', address: 'a@b.example, c@d.example', copy: true }] },
      ['actions.0!'],
    ],
    ['a flag of two words', { actions: [filed, { action: 'addflag', flags: ['to do'] }] }, ['actions.1!']],
    ['an unknown system flag', { actions: [{ action: 'addflag', flags: ['\\Recent'] }] }, ['actions.0!']],
    [
      'an expression that does not compile',
      {
        tests: leaf({
          test: 'compared',
          subject: { of: 'header', headers: ['subject'] },
          by: { match: 'regex', comparator: 'i;ascii-casemap', keys: ['(oak'] },
        }),
      },
      ['!'],
    ],
    ['an exception that exempts all', { unless: [subject(['o'])] }, ['unless']],
    [
      'a contradiction',
      { tests: { kind: 'all', children: [subject(['oak'], 'is'), subject(['lime'], 'is')] } },
      ['tests'],
    ],
  ])('%s', (_what, change, expected) => {
    expect(told(change)).toEqual(expected);
  });
});

describe('tests and actions as they are written', () => {
  test.each([
    ['header :contains "subject" "oak"', true],
    ['not  exists "x-tag"', true],
    ['anyof (true, size :over 2M)', true],
    ['header :regex "subject" "(oak"', false],
    ['true {} if false', false],
    ['true { discard; } stop; if true', false],
    ['header :contains "subject" "oak" # a comment', true],
    ['header "subject"', false],
    ['keep', false],
    ['', false],
  ])('the test %s: %s', (text, sound) => {
    expect(readWrittenTest(text).ok).toBe(sound);
  });

  test.each([
    ['keep', true],
    ['vacation :days 7 "Away";', true],
    ['reject text:\nNo.\n.', true],
    ['keep; discard', false],
    ['if true { keep; }', false],
    ['require "fileinto"', false],
    ['redirect "Ann"', false],
    ['fileinto ""', false],
  ])('the action %s: %s', (text, sound) => {
    expect(readWrittenAction(text).ok).toBe(sound);
  });
});

describe('tests in the words of the trade', () => {
  const given = { own: ['me@mill.example'], today: '2026-11-25' };
  /** Shorter ways to begin with another form. */
  const SAME: Partial<Record<FormId, FormId>> = { own: 'addressed' };

  test.each(TEST_FORMS.map((form) => [form.id, form] as const))('%s is shown as what it is', (id, form) => {
    const begun = form.begin(given);
    expect(formOf(begun)).toBe(SAME[id] ?? id);
    if (begun.test !== 'compared' || begun.by.keys.length === 0) return;
    // It is read back from a script as the same test.
    expect(readWrittenTest(wordsOfTest(begun))).toEqual({ ok: true, said: leaf(begun) });
  });

  test('words in the body, and dates, are written and read back', () => {
    const keys = Array.from({ length: 40 }, (_, n) => `a "long" word with \\ number ${n}`);
    const body = bodyTest({ match: 'contains', keys });
    expect(formOf(body)).toBe('body');
    for (const relation of ['lt', 'ge'] as const) {
      const dated = dateTest({ relation, day: '2024-02-29' });
      expect(maybeDate(dated)).toEqual({ relation, day: '2024-02-29' });
    }
  });
});
