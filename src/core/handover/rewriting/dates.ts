import type { LeafTest, TestTree } from '../../rules/rule';
import { byTests, leaf } from './transformation';

/**
 * Without `date` (RFC 5260): patterns of the Date field as a text, in the form of RFC 5322 section 3.3. Its day is that
 * of the sender's time zone. Days and years compared by order are enumerated, which needs no `relational`; the current
 * date, times of day and other fields are not portable.
 */
export const withoutDate = byTests('date', 'the date is taken in the sender’s time zone', asText);

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const WEEKDAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
/** Mail is assumed to be of these years if days are compared by order. */
const YEARS = { first: 1990, last: 2069 };

function asText(test: LeafTest): TestTree | null {
  if (test.test !== 'compared' || test.subject.of !== 'date') return null;
  const { subject, by } = test;
  if (subject.header.toLowerCase() !== 'date' || subject.occurrence) return null;
  const forms = by.keys.map((key) => {
    if (by.match === 'is') return formsOf(subject.part, key);
    return by.match === 'value' ? formsBy(by.relation, subject.part, key) : null;
  });
  if (forms.some((some) => some === null)) return null;
  const all = [...new Set(forms.flatMap((some) => some ?? []))];
  return leaf({ test: 'header', headers: ['date'], match: 'matches', comparator: 'i;ascii-casemap', keys: all });
}

/** Patterns of `:matches` for texts with this part; none if no date has it. */
function formsOf(part: string, key: string): string[] | null {
  const number = /^\d+$/.test(key) ? Number(key) : Number.NaN;
  switch (part) {
    case 'year':
      return /^\d{4}$/.test(key) ? [`* ${key} *`] : [];
    case 'month': {
      const month = MONTHS[number - 1];
      return month !== undefined && key.length === 2 ? [`* ${month} *`] : [];
    }
    case 'day':
      return key.length === 2 && number >= 1 && number <= 31 ? dayForms(number, '??? ????') : [];
    case 'weekday': {
      const weekday = WEEKDAYS[number];
      return weekday !== undefined && key.length === 1 ? [`${weekday},*`] : [];
    }
    case 'date': {
      const day = readDay(key);
      return day ? dayForms(day.day, `${MONTHS[day.month]} ${day.year}`) : [];
    }
    default:
      return null;
  }
}

/** A one-digit day may have a leading zero, and a weekday may precede it. */
function dayForms(day: number, rest: string): string[] {
  const written = day < 10 ? [String(day), `0${day}`] : [String(day)];
  return written.flatMap((text) => [`${text} ${rest} *`, `* ${text} ${rest} *`]);
}

interface Day {
  readonly year: number;
  /** From 0. */
  readonly month: number;
  readonly day: number;
}

function readDay(key: string): Day | null {
  const [, year, month, day] = /^(\d{4})-(\d\d)-(\d\d)$/.exec(key)?.map(Number) ?? [];
  if (year === undefined || month === undefined || day === undefined || month < 1 || month > 12) return null;
  return day >= 1 && day <= daysIn(year, month - 1) ? { year, month: month - 1, day } : null;
}

const daysIn = (year: number, month: number): number => new Date(Date.UTC(year, month + 1, 0)).getUTCDate();

/** Patterns for everything in a relation to the key; null if there are none. */
function formsBy(relation: string, part: string, key: string): string[] | null {
  if (relation === 'eq') return formsOf(part, key);
  const year = part === 'year' && /^\d{4}$/.test(key) ? { year: Number(key), month: 0, day: 1 } : null;
  const at = part === 'date' ? readDay(key) : year;
  if (!at) return null;
  const begin: Day = { year: YEARS.first, month: 0, day: 1 };
  const end: Day = { year: YEARS.last + 1, month: 0, day: 1 };
  const behind = part === 'year' ? { ...at, year: at.year + 1 } : nextDay(at);
  switch (relation) {
    case 'ge':
      return formsBetween(at, end);
    case 'gt':
      return formsBetween(behind, end);
    case 'lt':
      return formsBetween(begin, at);
    case 'le':
      return formsBetween(begin, behind);
    default:
      return null;
  }
}

function nextDay({ year, month, day }: Day): Day {
  if (day < daysIn(year, month)) return { year, month, day: day + 1 };
  return month < 11 ? { year, month: month + 1, day: 1 } : { year: year + 1, month: 0, day: 1 };
}

const isBefore = (a: Day, b: Day): boolean =>
  a.year !== b.year ? a.year < b.year : a.month !== b.month ? a.month < b.month : a.day < b.day;

/** Whole years and months where possible, else days; `to` is exclusive. */
function formsBetween(from: Day, to: Day): string[] {
  const forms: string[] = [];
  let at = from;
  while (isBefore(at, to)) {
    const year: Day = { year: at.year + 1, month: 0, day: 1 };
    const month: Day = nextDay({ ...at, day: daysIn(at.year, at.month) });
    if (at.month === 0 && at.day === 1 && !isBefore(to, year)) {
      forms.push(`* ${at.year} *`);
      at = year;
    } else if (at.day === 1 && !isBefore(to, month)) {
      forms.push(`* ${MONTHS[at.month]} ${at.year} *`);
      at = month;
    } else {
      forms.push(...dayForms(at.day, `${MONTHS[at.month]} ${at.year}`));
      at = nextDay(at);
    }
  }
  return forms;
}
