import type { Comparison, Subject } from '../comparison';
import type { TestTree } from '../rule';
import { maybeDay, maybeMonth, maybeWeekday } from '../words';
import { type Found, negation } from './found';
import { type Line, phrase } from './tokens';

const COMPARATOR = 'i;ascii-casemap';
const commas = phrase(',');
const or = phrase('or');

const D = {
  arrival: {
    date: phrase('the date of arrival'),
    weekday: phrase('the weekday of arrival'),
    month: phrase('the month of arrival'),
  },
  field: { date: phrase('the date in'), weekday: phrase('the weekday in'), month: phrase('the month in') },
} as const;

/** Relations to dates: what stands before and behind the date. */
const TIMES = [
  [phrase('is not before'), 'lt', null, true],
  [phrase('is not after'), 'gt', null, true],
  [phrase('is before'), 'lt', null, false],
  [phrase('is after'), 'gt', null, false],
  [phrase('is not'), 'ge', phrase('or later'), true],
  [phrase('is not'), 'le', phrase('or earlier'), true],
  [phrase('is'), 'ge', phrase('or later'), false],
  [phrase('is'), 'le', phrase('or earlier'), false],
  [phrase('is not'), null, null, true],
  [phrase('is'), null, null, false],
] as const;

/** “1 January 2020”. */
const DATE_WORDS = 3;

/** The key whose words these are. */
function maybeDateKey(part: 'date' | 'weekday' | 'month', text: string): string | null {
  if (part === 'weekday') return KEYS.find((key) => maybeWeekday(key.slice(1)) === text)?.slice(1) ?? null;
  if (part === 'month') return KEYS.find((key) => maybeMonth(key) === text) ?? null;
  const [, day = '', name = '', year = ''] = /^(\d{1,2}) (\p{L}+) (\d{4})$/u.exec(text) ?? [];
  const month = KEYS.find((key) => maybeMonth(key) === name);
  const key = month && `${year}-${month}-${day.padStart(2, '0')}`;
  return key && maybeDay(key) === text ? key : null;
}

/** Months as in keys; weekdays by their last digit. */
const KEYS = ['01', '02', '03', '04', '05', '06', '07', '08', '09', '10', '11', '12', '00'];

/** “the date of arrival is before 1 January 2020”, “the weekday in Date is Sunday or Saturday”. */
export function datedTest(
  line: Line,
  place: number,
  nameAt: (place: number) => Found<string> | null,
): Found<TestTree> | null {
  for (const part of ['date', 'weekday', 'month'] as const) {
    const arrival = line.after(place, D.arrival[part]);
    const field = arrival === null ? line.after(place, D.field[part]) : null;
    const name = field === null ? null : nameAt(field);
    const at = arrival ?? name?.next;
    if (at === undefined) continue;
    const subject: Subject = name
      ? { of: 'date', header: name.said, part, zone: null }
      : { of: 'currentdate', part, zone: null };
    for (const [start, relation, ending, isDenied] of TIMES) {
      const next = line.after(at, start);
      const keys = next === null ? null : dateKeys(line, next, part);
      const end = keys && (ending ? line.after(keys.next, ending) : keys.next);
      if (!keys || end === null) continue;
      const by: Comparison =
        relation === null
          ? { match: 'is', comparator: COMPARATOR, keys: keys.said }
          : { match: 'value', relation, comparator: COMPARATOR, keys: keys.said };
      const said: TestTree = { kind: 'leaf', test: { test: 'compared', subject, by } };
      return { said: isDenied ? negation(said) : said, next: end };
    }
  }
  return null;
}

function dateKeys(line: Line, place: number, part: 'date' | 'weekday' | 'month'): Found<string[]> | null {
  const keys: string[] = [];
  let at: number | null = place;
  let end = place;
  while (at !== null) {
    const words = part === 'date' ? DATE_WORDS : 1;
    const text: string = line.tokens
      .slice(at, at + words)
      .map((token) => token.text)
      .join(' ');
    const key = maybeDateKey(part, text);
    if (key === null) break;
    keys.push(key);
    end = at + words;
    at = line.after(end, commas) ?? line.after(end, or);
  }
  return keys.length === 0 ? null : { said: keys, next: end };
}
