import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { dateParts, parseDate } from '../mail/date';
import type { Relation } from '../text/relation';
import { dateText, findMoment, type MomentTest, meetsAll, type TestedZone } from './automata/calendar';
import { languageOf } from './languages';

const USUAL = { time: Date.UTC(2026, 0, 1, 10), zone: 0 };

const value = (part: string, relation: Relation, key: string, zone: TestedZone = 0): MomentTest => {
  const comparator = part === 'julian' ? 'i;ascii-numeric' : 'i;octet';
  return { part, zone, language: languageOf({ match: 'value', relation, comparator, keys: [key] }) };
};
const is = (part: string, keys: readonly string[], zone: TestedZone = 0): MomentTest => {
  return { part, zone, language: languageOf({ match: 'is', comparator: 'i;octet', keys }) };
};
const matches = (part: string, key: string): MomentTest => {
  return { part, zone: 0, language: languageOf({ match: 'matches', comparator: 'i;octet', keys: [key] }) };
};

describe('a moment that answers tests of its parts (RFC 5260 section 4.2)', () => {
  test.each<[string, MomentTest[], MomentTest[], string]>([
    ['nothing asked', [], [], '2026-01-01T10:00:00+00:00'],
    ['a weekday in a month', [is('month', ['07']), is('weekday', ['6'])], [], '2026-07-04T12:00:00+00:00'],
    [
      '29 February on a Monday',
      [is('month', ['02']), is('day', ['29']), is('weekday', ['1'])],
      [],
      '2016-02-29T12:00:00+00:00',
    ],
    ['an hour', [value('hour', 'ge', '22')], [value('minute', 'lt', '30')], '2026-01-01T22:30:00+00:00'],
    ['not on working days', [], [is('weekday', ['1', '2', '3', '4', '5'])], '2026-01-03T12:00:00+00:00'],
    ['a date as a pattern', [matches('date', '*-12-2?')], [is('day', ['20', '21'])], '2026-12-22T12:00:00+00:00'],
    ['a Julian day', [value('julian', 'ge', '61041'), value('julian', 'le', '61041')], [], '2026-01-01T10:00:00+00:00'],
    [
      'to the second',
      [value('iso8601', 'ge', '2026-05-01T12:00:01+00:00')],
      [value('iso8601', 'gt', '2026-05-01T12:00:01+00:00')],
      '2026-05-01T12:00:01+00:00',
    ],
  ])('%s', (_, some, none, expected) => {
    const found = findMoment({ some, none }, USUAL);
    expect(found.found === 'moment' && dateParts(found.moment.time, 0, 'iso8601')).toBe(expected);
  });

  test.each<[string, MomentTest[], MomentTest[]]>([
    ['30 February', [is('month', ['02']), is('day', ['30'])], []],
    ['a day before a year, in it', [value('date', 'lt', '2026-01-01'), value('year', 'ge', '2026')], []],
    ['a date and another Julian day', [is('date', ['2026-01-01']), value('julian', 'ge', '61042')], []],
    [
      '29 February of a year that is no leap year',
      [is('year', ['2025', '2026', '2100']), is('month', ['02']), is('day', ['29'])],
      [],
    ],
    ['a date that is no Thursday', [is('date', ['2026-01-01'])], [is('weekday', ['4'])]],
    ['25:00', [value('hour', 'ge', '24')], []],
    ['each weekday excluded', [], [is('weekday', ['0', '1', '2', '3', '4', '5', '6'])]],
    ['an hour and a time', [is('hour', ['07'])], [matches('time', '07:*')]],
  ])('none: %s', (_, some, none) => {
    expect(findMoment({ some, none }, USUAL)).toEqual({ found: 'none' });
  });

  test.each<[string, MomentTest[]]>([
    ['the zone of the server', [is('zone', ['+0200'], 'server')]],
    ['a time in the zone of the server', [is('iso8601', ['2026-05-01T12:00:00+02:00'], 'server')]],
    ['a time in the zone of the date', [is('iso8601', ['2026-05-01T12:00:00+02:00'], 'written')]],
    ['hours of the server and of UTC', [is('hour', ['10'], 'server'), is('hour', ['12'], 0)]],
  ])('nothing is proved of a zone that is not known: %s', (_, some) => {
    expect(findMoment({ some, none: [] }, USUAL).found).not.toBe('none');
  });

  test('what is found meets the tests, and where nothing is found no moment of many does', () => {
    const part = fc.constantFrom('year', 'month', 'day', 'date', 'weekday', 'hour', 'minute');
    const time = fc
      .integer({ min: Date.UTC(2023, 0, 1) / 1000, max: Date.UTC(2028, 0, 1) / 1000 })
      .map((at) => at * 1000);
    const zone = fc.constantFrom(0, 0, 60, -300);
    const one = fc
      .tuple(part, time, zone, fc.constantFrom('ge', 'lt', 'eq', 'is') as fc.Arbitrary<'ge' | 'lt' | 'eq' | 'is'>)
      .map(([name, at, offset, how]): MomentTest => {
        const key = dateParts(at, offset, name) ?? '';
        return how === 'is' ? is(name, [key], offset) : value(name, how, key, offset);
      });
    const tests = fc.record({ some: fc.array(one, { maxLength: 3 }), none: fc.array(one, { maxLength: 3 }) });
    const counts = { moment: 0, none: 0, 'gave up': 0 };
    fc.assert(
      fc.property(tests, fc.array(time, { minLength: 50, maxLength: 50 }), (query, times) => {
        const found = findMoment(query, USUAL);
        counts[found.found]++;
        if (found.found === 'moment') expect(meetsAll(query, found.moment)).toBe(true);
        if (found.found === 'none') expect(times.some((at) => meetsAll(query, { time: at, zone: 0 }))).toBe(false);
      }),
      { numRuns: 500 },
    );
    expect(Math.min(counts.moment, counts.none)).toBeGreaterThan(20);
    // Tests of several zones.
    expect(counts['gave up']).toBeLessThan(120);
  });

  test('a moment is written as header fields write it, and read back', () => {
    expect(dateText({ time: Date.UTC(2026, 6, 4, 10), zone: 0 })).toBe('Sat, 4 Jul 2026 10:00:00 +0000');
    const moment = { time: Date.UTC(2026, 6, 4, 10), zone: -330 };
    expect(parseDate(dateText(moment))).toEqual(moment);
  });
});
