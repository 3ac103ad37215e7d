import { dateParts } from '../../mail/date';
import { type Automaton, Exploded } from './language';
import { isOrdered } from './order-language';

/** A test of one part of a moment (RFC 5260 section 4.2), as seen in a zone. */
export interface MomentTest {
  readonly part: string;
  /** Minutes east of UTC, or that of the server, or that in which the date was written: neither is known beforehand. */
  readonly zone: TestedZone;
  readonly language: Automaton;
}

export type TestedZone = number | 'server' | 'written';

export interface MomentQuery {
  readonly some: readonly MomentTest[];
  readonly none: readonly MomentTest[];
}

/** A moment, and the zone in which it is written. */
export interface Moment {
  /** Milliseconds since 1970. */
  readonly time: number;
  /** Minutes east of UTC. */
  readonly zone: number;
}

export type FoundMoment =
  | { readonly found: 'moment'; readonly moment: Moment }
  | { readonly found: 'none' | 'gave up' };

const MINUTE = 60_000;
const DAY = 86_400_000;
/** The first and last years that four digits can write. */
const [FIRST_YEAR, LAST_YEAR] = [0, 9999];
/** The calendar repeats itself after this many years. */
const CYCLE = 400;

const DAY_PARTS = new Set(['month', 'day', 'weekday']);
const YEAR_PARTS = new Set(['year', 'date', 'julian', 'iso8601']);
const CLOCK_PARTS = new Set(['hour', 'minute', 'second', 'time', 'iso8601']);

export const meetsAll = ({ some, none }: MomentQuery, { time, zone }: Moment): boolean => {
  const holds = (one: MomentTest) => {
    const value = dateParts(time, offsetIn(one.zone, zone), one.part);
    return value !== null && one.language.has(value);
  };
  return some.every(holds) && !none.some(holds);
};

/** The server is taken to be in UTC, as interpreted scripts see it. */
const offsetIn = (zone: TestedZone, written: number): number =>
  zone === 'written' ? written : zone === 'server' ? 0 : zone;

/** A moment that answers the query, the usual one if possible. `none`: proved that there is none. */
export function findMoment(query: MomentQuery, usual: Moment): FoundMoment {
  try {
    if (meetsAll(query, usual)) return { found: 'moment', moment: usual };
    const zones = new Set([...query.some, ...query.none].map(({ zone }) => zone));
    const [only, ...others] = zones;
    if (only !== undefined && others.length === 0) return withinZone(query, only, usual);
    return acrossZones(query, [...zones], usual);
  } catch (error) {
    if (error instanceof Exploded) return { found: 'gave up' };
    throw error;
  }
}

/** If the tests of one zone have no moment, all together have none; else some moments are tried. */
function acrossZones(query: MomentQuery, zones: readonly TestedZone[], usual: Moment): FoundMoment {
  for (const zone of zones) {
    const own = (tests: readonly MomentTest[]) => tests.filter((one) => one.zone === zone);
    const part = { some: own(query.some), none: own(query.none) };
    const found = withinZone(part, zone, usual);
    if (found.found !== 'moment') return found;
    for (const shift of SHIFTS) {
      const moment = { ...found.moment, time: found.moment.time + shift };
      if (meetsAll(query, moment)) return { found: 'moment', moment };
    }
  }
  return { found: 'gave up' };
}

/** Hours around a moment that answers some of the tests, in milliseconds. */
const SHIFTS = Array.from({ length: 336 }, (_, hours) => (hours % 2 ? -1 : 1) * Math.ceil(hours / 2) * 60 * MINUTE);

/** Zones in use are quarters of an hour from UTC. */
const ZONES = Array.from({ length: 105 }, (_, at) => (at - 52) * 15);

/**
 * All tests see the same zone, so that a day and a time of day can be looked for one after the other. In a zone that is
 * not known, tests that read the zone itself prove nothing.
 */
function withinZone(query: MomentQuery, zone: TestedZone, usual: Moment): FoundMoment {
  const parts = [...query.some, ...query.none].map(({ part }) => part);
  if (parts.includes('std11')) return { found: 'gave up' };
  const ofZone = (tests: readonly MomentTest[]) => tests.filter(({ part }) => part === 'zone');
  const offsets = zone === 'written' ? [usual.zone, ...ZONES] : [offsetIn(zone, 0)];
  const meetsZone = (offset: number) => {
    const holds = ({ language }: MomentTest) => language.has(dateParts(0, offset, 'zone') ?? '');
    return ofZone(query.some).every(holds) && !ofZone(query.none).some(holds);
  };
  const isKnown = typeof zone === 'number';
  const offset = offsets.find(meetsZone);
  if (offset === undefined) return { found: isKnown ? 'none' : 'gave up' };
  const found = new Search(query, offset).find(usual.time);
  if (found === 'none' && !isKnown && parts.includes('iso8601')) return { found: 'gave up' };
  if (typeof found === 'string') return { found };
  return { found: 'moment', moment: { time: found - offset * MINUTE, zone: zone === 'written' ? offset : usual.zone } };
}

/** A search for a local time: by kinds of years, then days, then times of day. */
class Search {
  readonly #tests: readonly MomentTest[];
  readonly #wanted: number;

  constructor(
    { some, none }: MomentQuery,
    readonly zone: number,
  ) {
    const isClockOrDay = ({ part }: MomentTest) => part !== 'zone';
    const [first, second] = [some.filter(isClockOrDay), none.filter(isClockOrDay)];
    this.#tests = [...first, ...second];
    this.#wanted = first.length;
  }

  /** Milliseconds of the local time, read as UTC. */
  find(usual: number): number | 'none' | 'gave up' {
    const julian = this.#tests.filter(({ part }) => part === 'julian');
    const boundaries = julian.map(({ language }) => boundaryOf(language));
    if (boundaries.includes(null)) return 'gave up';
    const alike = this.#centuries(boundaries);
    const seen = new Set<string>();
    const tried = new Set<string>();
    for (const year of this.#years(usual)) {
      if (!alike.isFirst(Math.floor(year / 100))) continue;
      const start = startOf(year);
      const days = Math.round((startOf(year + 1) - start) / DAY);
      if (!this.#meets('year', fourDigits(year))) continue;
      const first = julianOf(start);
      const kind = [
        days,
        new Date(start).getUTCDay(),
        this.#after('date', `${fourDigits(year)}-`),
        this.#after('iso8601', `${fourDigits(year)}-`),
        ...boundaries.map((one) => {
          const [from, to] = [Number(first >= (one ?? 0)), Number(first + days > (one ?? 0))];
          // A year in which the order changes is like no other.
          return from === to ? from : `in ${year}`;
        }),
      ].join(' ');
      if (seen.has(kind)) continue;
      seen.add(kind);
      for (let at = 0; at < days; at++) {
        const time = start + at * DAY;
        if (!this.#isDay(time)) continue;
        const rest = this.#after('iso8601', `${this.#partOf(time, 'date')}T`);
        if (tried.has(rest)) continue;
        tried.add(rest);
        const clock = this.#clock(time);
        if (clock !== null) return time + clock;
      }
    }
    return 'none';
  }

  /** Which centuries bring nothing that an earlier one did not: most, so that few of 10,000 years are looked at. */
  #centuries(boundaries: readonly (number | null)[]) {
    const firsts = new Map<string, number>();
    const keys = new Map<number, string>();
    const keyOf = (century: number): string => {
      const [from, to] = [100 * century, 100 * century + 100].map((year) => julianOf(startOf(year))) as [
        number,
        number,
      ];
      const digits = two(century);
      return [
        // The days of the week repeat after four centuries.
        century % (CYCLE / 100),
        ...['year', 'date', 'iso8601'].map((part) => this.#after(part, digits)),
        ...boundaries.map((one) => (from >= (one ?? 0) ? 1 : to <= (one ?? 0) ? 0 : `in ${century}`)),
      ].join(' ');
    };
    return {
      isFirst: (century: number): boolean => {
        const key = keys.get(century) ?? keyOf(century);
        keys.set(century, key);
        const first = firsts.get(key) ?? century;
        firsts.set(key, first);
        return first === century;
      },
    };
  }

  /** The years to look at, those near the usual one first. */
  *#years(usual: number): Generator<number> {
    const year = new Date(usual).getUTCFullYear();
    const isAny = this.#tests.every(
      ({ part }) => DAY_PARTS.has(part) || (CLOCK_PARTS.has(part) && !YEAR_PARTS.has(part)),
    );
    const most = isAny ? CYCLE / 2 : LAST_YEAR;
    if (year >= FIRST_YEAR && year <= LAST_YEAR) yield year;
    for (let distance = 1; distance <= most; distance++) {
      if (year + distance <= LAST_YEAR) yield year + distance;
      if (year - distance >= FIRST_YEAR) yield year - distance;
    }
  }

  #isDay(time: number): boolean {
    return ['month', 'day', 'weekday', 'date', 'julian'].every((part) => {
      return !this.#has(part) || this.#meets(part, this.#partOf(time, part));
    });
  }

  /** The earliest time of the day, in milliseconds, that the tests allow; noon if they allow any. */
  #clock(day: number): number | null {
    if (!this.#tests.some(({ part }) => CLOCK_PARTS.has(part))) return 12 * 60 * MINUTE;
    const hours = this.#distinct(24, 'hour', (hour) => [`${two(hour)}:`, hour * 60 * MINUTE], day);
    for (const [early, hour] of hours) {
      const minutes = this.#distinct(
        60,
        'minute',
        (minute) => [`${early}${two(minute)}:`, hour + minute * MINUTE],
        day,
      );
      for (const [, minute] of minutes) {
        for (let second = 0; second < 60; second++) {
          const time = day + minute + second * 1000;
          const isMet = ['second', 'time', 'iso8601'].every((part) => {
            return !this.#has(part) || this.#meets(part, this.#partOf(time, part));
          });
          if (isMet) return minute + second * 1000;
        }
      }
    }
    return null;
  }

  /** Of numbers that the tests of a part allow, one for each way in which tests of the whole time can go on. */
  #distinct(
    count: number,
    part: string,
    at: (number: number) => readonly [text: string, time: number],
    day: number,
  ): (readonly [text: string, time: number])[] {
    const seen = new Set<string>();
    return Array.from({ length: count }, (_, number) => number).flatMap((number) => {
      if (!this.#meets(part, two(number))) return [];
      const [text, time] = at(number);
      const date = this.#has('iso8601') ? this.#partOf(day, 'date') : '';
      const key = `${this.#after('time', text)} ${this.#after('iso8601', `${date}T${text}`)}`;
      if (seen.has(key)) return [];
      seen.add(key);
      return [[text, time] as const];
    });
  }

  #has(part: string): boolean {
    return this.#tests.some((one) => one.part === part);
  }

  #meets(part: string, value: string): boolean {
    return this.#tests.every((one, index) => one.part !== part || one.language.has(value) === index < this.#wanted);
  }

  /** The states of all tests of a part after the beginning of its text. */
  #after(part: string, text: string): string {
    return this.#tests
      .flatMap(({ part: other, language }) => {
        if (other !== part) return [];
        let at = language.start;
        for (const character of text) at = language.step(at, character);
        return [at];
      })
      .join();
  }

  #partOf(time: number, part: string): string {
    return dateParts(time - this.zone * MINUTE, this.zone, part) ?? '';
  }
}

/** The first Julian day at which an ordered test changes; null for a test in no order of numbers. */
function boundaryOf(language: Automaton): number | null {
  if (!isOrdered(language) || !language.family?.startsWith('number')) return null;
  const number = Number(/^\d+/.exec(language.key)?.[0] ?? Number.NaN);
  if (Number.isNaN(number)) return null;
  return language.relation === 'gt' || language.relation === 'le' ? number + 1 : number;
}

const julianOf = (time: number): number => Math.floor(time / DAY) + 40_587;
const two = (number: number): string => String(number).padStart(2, '0');
const fourDigits = (year: number): string => String(year).padStart(4, '0');

/** The start of a year; `Date.UTC` takes the years before 100 as those of the last century. */
function startOf(year: number): number {
  const date = new Date(0);
  date.setUTCFullYear(year, 0, 1);
  return date.getTime();
}

/** The moments of a chain of dates, as header fields write them (RFC 5322 section 3.3). */
export const dateText = ({ time, zone }: Moment): string => (dateParts(time, zone, 'std11') ?? '').replace(', 0', ', ');
