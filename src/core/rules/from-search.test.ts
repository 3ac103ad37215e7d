import { describe, expect, test } from 'vitest';
import { ruleOfSearch, type Search } from './from-search';
import { treeWords } from './sentence';

const NOTHING: Search = { unsubscribing: ['unsubscribe'], others: [] };
const DAY = 'the date in Date (in time zone +00:00)';

describe('a rule of a search', () => {
  test.each<[Partial<Search>, string, string]>([
    [{ from: 'ann' }, 'From contains “ann”', 'ann'],
    [{ subject: 'oak', list: 'mill' }, 'the subject contains “oak” and List-Id contains “mill”', 'oak, mill'],
    [{ person: 'a@b.example' }, 'an address in From, To or Cc is “a@b.example”', 'a@b.example'],
    [{ account: 'me@b.example' }, 'an address in Delivered-To, To or Cc is “me@b.example”', 'me@b.example'],
    [{ since: '2026-01-31' }, `${DAY} is 31 January 2026 or later`, 'since 2026-01-31'],
    [{ isAttached: true }, 'Content-Disposition in any MIME part contains “attachment”', 'attachments'],
    [
      { unsubscribe: 'none' },
      'the field List-Unsubscribe is missing and the body does not contain “unsubscribe”',
      'unsubscribing',
    ],
    [
      { search: '"wheel shaft" oak' },
      '(the subject, From, To or Cc contains “wheel shaft”, or the body contains “wheel shaft”) and (the subject, From, To or Cc contains “oak”, or the body contains “oak”)',
      'wheel shaft oak',
    ],
  ])('%j', (search, words, name) => {
    const { tests, name: named, unsaid } = ruleOfSearch({ ...NOTHING, ...search });
    expect(tests && treeWords(tests)).toBe(words);
    expect([named, unsaid]).toEqual([name, []]);
  });

  test('what no rule can say is told, and what is said otherwise too', () => {
    expect(ruleOfSearch({ ...NOTHING, others: ['its destination'] })).toMatchObject({
      tests: null,
      unsaid: ['its destination'],
    });
    expect(ruleOfSearch({ ...NOTHING, search: 'oak', until: '2026-01-31' }).inexact).toHaveLength(2);
    expect(ruleOfSearch({ ...NOTHING, subject: 'oak' }).inexact).toEqual([]);
  });
});
