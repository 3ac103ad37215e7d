import { dateParts } from '../mail/date';
import { maybeComparator } from '../sieve/match/comparators';
import type { Level } from './solve/fields';

/** The prefix of the scale of a currentdate test; zone, date part and comparator follow. */
export const CLOCK_SCALE = 'currentdate ';

/** Whether the current date reaches, or does not reach, a level of a scale at some moment. */
export function clockMeets({ scale, level, strict, order, truth }: Level, time: number): boolean {
  const [, zone = '', part = '', comparator = ''] = scale.split(' ');
  const value = dateParts(time, minutesOf(zone), part);
  if (value === null) return !truth;
  const compared = order(maybeComparator(comparator)?.fold(value) ?? value, level);
  return (strict ? compared > 0 : compared >= 0) === truth;
}

/** Minutes east of UTC of "+hhmm"; 0 for the zone of the server, which is UTC here. */
function minutesOf(zone: string): number {
  const found = /^([+-])(\d{2})(\d{2})$/.exec(zone);
  if (!found) return 0;
  const minutes = Number(found[2]) * 60 + Number(found[3]);
  return found[1] === '-' ? -minutes : minutes;
}

const DAY = 86_400_000;
const MOST_TRIES = 200_000;

/** A moment at which the current date answers all levels, `usual` if possible; null if none is found. */
export function instantFor(levels: readonly Level[], usual: number): number | null {
  const asked = levels.filter(({ scale }) => scale.startsWith(CLOCK_SCALE));
  const meets = (time: number) => asked.every((level) => clockMeets(level, time));
  if (meets(usual)) return usual;
  let tries = 0;
  for (const day of daysFor(asked, usual)) {
    for (const clock of clocksFor(asked, usual)) {
      if (++tries > MOST_TRIES) return null;
      if (meets(day + clock)) return day + clock;
    }
  }
  return null;
}

/** The beginnings of days at which a level may change, and the week around each. */
function daysFor(levels: readonly Level[], usual: number): number[] {
  const years = new Set([new Date(usual).getUTCFullYear()]);
  const days = new Set([startOf(usual)]);
  const numbers = (part: string) =>
    levels.flatMap(({ scale, level }) => (scale.split(' ')[2] === part && /^\d+$/.test(level) ? [Number(level)] : []));
  for (const { level } of levels) {
    const date = /^(\d{4})-(\d{2})-(\d{2})/.exec(level);
    if (date) days.add(Date.UTC(Number(date[1]), Number(date[2]) - 1, Number(date[3])));
  }
  for (const year of numbers('year')) for (const near of [year - 1, year, year + 1]) years.add(near);
  for (const julian of numbers('julian')) days.add((julian - 40_587) * DAY);
  for (const day of days) years.add(new Date(day).getUTCFullYear());
  const months = new Set([0, 11, ...numbers('month').flatMap((month) => [month - 2, month - 1, month])]);
  const dates = new Set([1, 28, ...numbers('day').flatMap((day) => [day - 1, day, day + 1])]);
  for (const year of years) for (const month of months) for (const date of dates) days.add(Date.UTC(year, month, date));
  const week = [0, 1, -1, 2, -2, 3, -3, 4, 5, 6];
  return [...new Set(week.flatMap((shift) => [...days].map((day) => day + shift * DAY)))];
}

/** Times of day at which a level may change, in milliseconds. */
function clocksFor(levels: readonly Level[], usual: number): number[] {
  const clocks = new Set([usual - startOf(usual), 0, DAY - 1000]);
  for (const { scale, level } of levels) {
    const part = scale.split(' ')[2];
    const time = /(\d{2}):(\d{2}):(\d{2})/.exec(level);
    if (time) {
      const at = (Number(time[1]) * 3600 + Number(time[2]) * 60 + Number(time[3])) * 1000;
      for (const near of [at - 1000, at, at + 1000]) clocks.add(near);
    }
    const unit = { hour: 3_600_000, minute: 60_000, second: 1000 }[part ?? ''];
    if (unit !== undefined && /^\d+$/.test(level)) {
      for (const near of [-1, 0, 1]) clocks.add((Number(level) + near) * unit);
    }
  }
  return [...clocks].filter((clock) => clock >= 0 && clock < DAY);
}

const startOf = (time: number): number => Math.floor(time / DAY) * DAY;

/** Formatted as in a header field (RFC 5322 section 3.3). */
export const written = (time: number): string => (dateParts(time, 0, 'std11') ?? '').replace(', 0', ', ');
