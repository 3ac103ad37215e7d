import { expect, test } from 'vitest';
import { chainFromSieve } from '../rules/from-sieve';
import { blankRule, type LeafTest, type Rule } from '../rules/rule';
import { sentenceOf } from '../rules/sentence';
import { sieveFromChain } from '../rules/to-sieve';
import { keysOf } from '../text/lookup';
import { ACTION_BEGINNINGS, ACTION_FORMS, withPart } from './action-forms';
import { begunQuestion, QUERY_FORMS, SUBJECT_FORMS } from './question-forms';
import { CONDITION_FORMS } from './test-forms';

const EMPTY: Rule = { ...blankRule('r1'), name: 'Oak' };

const backFrom = (rule: Rule) => {
  const { chain, diagnostics } = chainFromSieve(sieveFromChain({ entries: [rule], closing: '' }).text);
  expect(diagnostics).toEqual([]);
  const [entry] = chain.entries;
  return entry?.kind === 'rule' ? entry : null;
};

test.each(
  ACTION_BEGINNINGS.filter(({ begin }) => !('folder' in begin && begin.folder === '') && !('address' in begin)),
)('“$title” is begun as a rule that is written and read back as it is, and told in words', ({ begin }) => {
  const rule = { ...EMPTY, actions: [begin] };
  expect(backFrom(rule)?.actions).toEqual([begin]);
  expect(sentenceOf(rule)).not.toMatch(/:\w|;\s*;|undefined/);
});

test('an action may be left out of no list: each further one has a title of its own', () => {
  const titles = ACTION_BEGINNINGS.map(({ title }) => title);
  expect(new Set(titles).size).toBe(titles.length);
  for (const name of keysOf(ACTION_FORMS)) expect(ACTION_FORMS[name].begin.action).toBe(name);
});

const SCORE: LeafTest = {
  test: 'compared',
  subject: { of: 'spamtest', percent: false },
  by: { match: 'value', relation: 'ge', comparator: 'i;ascii-numeric', keys: ['5'] },
};

test.each([...keysOf(QUERY_FORMS), ...keysOf(SUBJECT_FORMS)])(
  'a question of kind %s is begun, written and read back',
  (kind) => {
    const begun = begunQuestion(kind, { test: 'size', relation: 'over', octets: 1 });
    const asked: LeafTest = begun.test === 'compared' ? { ...begun, by: { ...begun.by, keys: ['5'] } } : begun;
    const rule: Rule = {
      ...EMPTY,
      tests: { kind: 'leaf', test: asked },
      actions: [{ action: 'keep', flags: null }],
    };
    const read = backFrom(rule);
    // Some are plain tests of rules in their simplest form.
    expect(read && sentenceOf(read)).toBe(sentenceOf(rule));
  },
);

test('what was looked for passes to another test, but not from a score to texts', () => {
  const texts = begunQuestion('string', SCORE);
  expect(texts).toMatchObject({ by: { match: 'is', keys: [] } });
  const header = { ...texts, by: { match: 'contains', comparator: 'i;octet', keys: ['weir'] } } as const;
  expect(begunQuestion('body', header)).toMatchObject({ subject: { of: 'body' }, by: header.by });
  expect(begunQuestion('virustest', SCORE)).toMatchObject({ subject: { of: 'virustest' }, by: SCORE.by });
});

test('a part is put in, replaced and left out', () => {
  const reply = ACTION_FORMS.vacation.begin;
  const named = withPart(reply, 'subject', 'Away');
  expect(named).toEqual({ ...reply, subject: 'Away' });
  expect(withPart(named, 'subject', undefined)).toEqual(reply);
});

test.each(CONDITION_FORMS.map(({ title, begin }) => [title, begin] as const))(
  '“%s” is begun as a rule that is written and read back as it is',
  (_title, begin) => {
    const tests = begin({ own: ['me@mill.example'], today: '2026-01-01', unsubscribing: ['unsubscribe', 'abmelden'] });
    const rule: Rule = {
      ...EMPTY,
      tests: { kind: 'all', children: [tests] },
      actions: [{ action: 'discard' }],
    };
    const back = backFrom(rule);
    expect(back && sentenceOf({ ...back, name: '' })).toBe(sentenceOf({ ...rule, name: '' }));
  },
);
