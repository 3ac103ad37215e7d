import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { dateParts, parseDate } from './date';

const iso = (raw: string) => {
  const date = parseDate(raw);
  return date && `${new Date(date.time).toISOString()} ${date.zone}`;
};

describe('dates (RFC 5322 section 3.3, with the obsolete forms of section 4.3)', () => {
  test.each([
    ['Fri, 21 Nov 1997 09:55:06 -0600', '1997-11-21T15:55:06.000Z -360'],
    ['21 Nov 97 09:55:06 GMT', '1997-11-21T09:55:06.000Z 0'],
    ['Thu, 13\n Feb 1969 23:32 -0330 (Newfoundland Time)', '1969-02-14T03:02:00.000Z -210'],
    ['1 Jan 26 00:00:00 EST', '2026-01-01T05:00:00.000Z -300'],
    ['1 Jan 126 00:00:00 Z', '2026-01-01T00:00:00.000Z 0'],
    ['29 Feb 2024 12:00:00 +0000', '2024-02-29T12:00:00.000Z 0'],
    ['1 Jan 2026 00:00:00', '2026-01-01T00:00:00.000Z 0'],
    ['29 Feb 2026 12:00:00 +0000', null],
    ['31 Apr 2026 12:00:00 +0000', null],
    ['1 Foo 2026 12:00:00 +0000', null],
    ['1 Jan 2026 24:00:00 +0000', null],
    ['0 Jan 2026 12:00:00 +0000', null],
    ['tomorrow', null],
    ['', null],
  ])('%j', (raw, expected) => expect(iso(raw)).toBe(expected));
});

describe('parts of a date (RFC 5260 section 4.2)', () => {
  test('as the calendar of JavaScript has them, in any zone', () => {
    const moments = fc.integer({ min: Date.UTC(1901, 0, 1), max: Date.UTC(2100, 0, 1) });
    fc.assert(
      fc.property(moments, fc.integer({ min: -12 * 60, max: 14 * 60 }), (time, zone) => {
        const at = new Date(time + zone * 60_000).toISOString();
        expect(dateParts(time, zone, 'date')).toBe(at.slice(0, 10));
        expect(dateParts(time, zone, 'TIME')).toBe(at.slice(11, 19));
        expect([dateParts(time, zone, 'year'), dateParts(time, zone, 'month')].join('-')).toBe(at.slice(0, 7));
        const whole = dateParts(time, zone, 'std11') ?? '';
        expect(Math.floor(Date.parse(whole) / 1000)).toBe(Math.floor(time / 1000));
        expect(parseDate(whole)?.zone).toBe(zone);
        expect(Math.floor(Date.parse(dateParts(time, zone, 'iso8601') ?? '') / 1000)).toBe(Math.floor(time / 1000));
      }),
    );
  });

  test('the modified Julian day, the day of the week, and what is no part', () => {
    expect(dateParts(Date.UTC(1858, 10, 17), 0, 'julian')).toBe('0');
    expect(dateParts(Date.UTC(2026, 10, 25), 0, 'weekday')).toBe('3');
    expect(dateParts(0, 330, 'zone')).toBe('+0530');
    expect(dateParts(0, 0, 'century')).toBeNull();
  });
});
