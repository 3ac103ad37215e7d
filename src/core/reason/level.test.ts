import { describe, expect, test } from 'vitest';
import { chainFromSieve } from '../rules/from-sieve';
import { Reach } from './reach';

/** Tests of dates and counts, as levels of a scale (RFC 5260 sections 4 and 5, RFC 5231). */
const answers = (...tests: string[]) => {
  const rules = tests.map((one, at) => `if ${one} { fileinto "F${at}"; stop; }`).join('\n');
  const needs = '"fileinto", "date", "relational", "comparator-i;ascii-numeric", "index"';
  const { chain, diagnostics } = chainFromSieve(`require [${needs}];\n${rules}\n`);
  expect(diagnostics).toEqual([]);
  const reach = new Reach(chain);
  return chain.entries.map((_, place) => reach.canFire(place).answer);
};

const now = (relation: string, day: string) => `currentdate :value "${relation}" "date" "${day}"`;
const sent = (relation: string, day: string) => `date :value "${relation}" "date" "date" "${day}"`;
const count = (relation: string, number: number, field = 'received') =>
  `header :count "${relation}" :comparator "i;ascii-numeric" "${field}" "${number}"`;

describe('values on a scale', () => {
  test.each([
    ['an interval', [`allof (${now('ge', '2026-01-01')}, ${now('lt', '2027-01-01')})`], ['possible']],
    ['an empty interval', [`allof (${now('ge', '2027-01-01')}, ${now('lt', '2026-01-01')})`], ['contradiction']],
    ['one day at most', [`allof (${now('ge', '2027-01-01')}, ${now('le', '2027-01-01')})`], ['possible']],
    ['less than a day', [`allof (${now('gt', '2027-01-01')}, ${now('le', '2027-01-01')})`], ['contradiction']],
    ['a later start', [now('ge', '2026-01-01'), now('gt', '2026-05-01')], ['possible', 'shadowed']],
    [
      'two days',
      ['allof (currentdate :is "date" "2026-01-01", currentdate :is "date" "2026-01-02")'],
      ['contradiction'],
    ],
    [
      'years as numbers',
      [
        'allof (currentdate :value "ge" :comparator "i;ascii-numeric" "year" "2030", currentdate :value "lt" :comparator "i;ascii-numeric" "year" "99")',
      ],
      ['contradiction'],
    ],
    [
      'years as texts',
      ['allof (currentdate :value "ge" "year" "2030", currentdate :value "lt" "year" "99")'],
      ['possible'],
    ],
    [
      'a message without a date',
      [sent('ge', '2026-01-01'), sent('lt', '2026-01-01'), 'true'],
      ['possible', 'possible', 'possible'],
    ],
    [
      'a date before and after',
      // Date may stand there twice.
      [`allof (${sent('lt', '2020-01-01')}, ${sent('gt', '2020-01-01')})`],
      ['possible'],
    ],
    ['a date without the field', [`allof (${sent('lt', '2020-01-01')}, not exists "date")`], ['contradiction']],
    [
      'two parts of one date',
      [`allof (${now('ge', '2027-01-01')}, currentdate :value "lt" "year" "2026")`],
      ['contradiction'],
    ],
    [
      'a month, a weekday and an hour',
      ['allof (currentdate "month" "07", currentdate "weekday" "6", currentdate :value "ge" "hour" "22")'],
      ['possible'],
    ],
    ['how often', [`allof (${count('ge', 3)}, ${count('lt', 3)})`], ['contradiction']],
    ['often enough', [count('ge', 2), count('gt', 4)], ['possible', 'shadowed']],
    ['what is not there', [`allof (${count('ge', 1)}, not exists "received")`], ['contradiction']],
    ['what should stand there once', [count('gt', 1, 'subject')], ['possible']],
    ['at least none', [count('ge', 0, 'subject'), 'true'], ['possible', 'shadowed']],
    [
      'the only one',
      [
        `allof (header :contains "received" "x", not header :index 1 :contains "received" "x", ${count('lt', 2)})`,
        'allof (header :contains "received" "x", not header :index 1 :contains "received" "x")',
      ],
      ['contradiction', 'possible'],
    ],
    ['one of several', ['date :index 1 :value "ge" "received" "date" "2026-01-01"', 'true'], ['possible', 'possible']],
  ])('%s', (_, tests, expected) => {
    expect(answers(...tests)).toEqual(expected);
  });
});
