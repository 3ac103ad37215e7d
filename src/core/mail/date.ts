import { elementAt } from '../text/lookup';
/** A date of a header field: its moment, and the zone it was written in. */
export interface MailDate {
  /** Milliseconds since 1970. */
  readonly time: number;
  /** Minutes east of UTC. */
  readonly zone: number;
}

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const DATE =
  /^(?:[a-z]{3,9}\.?\s*,?\s*)?(\d{1,2})\s*[\s-]\s*([a-z]{3})[a-z]*\s*[\s-]\s*(\d{2,4})\s+(\d{1,2}):(\d{2})(?::(\d{2}))?(?![:\d])\s*([+-]\d{4}|[a-z]+)?/i;
/** RFC 5322 section 4.3; all other letters are taken as UTC. */
const ZONES: Readonly<Record<string, number>> = {
  edt: -240,
  est: -300,
  cdt: -300,
  cst: -360,
  mdt: -360,
  mst: -420,
  pdt: -420,
  pst: -480,
};

/** Comments, which may stand within each other a few times (RFC 5322 section 3.2.2). */
function withoutComments(raw: string): string {
  let text = raw;
  for (let depth = 0; depth < 5 && text.includes('('); depth++) text = text.replace(/\([^()]*\)/g, ' ');
  return text;
}

/** The date that a field is, or with which it ends behind a semicolon, as Received does; null where there is none. */
export function fieldDate(raw: string): MailDate | null {
  const text = withoutComments(raw);
  return parseDate(text.slice(text.lastIndexOf(';') + 1));
}

/** RFC 5322 section 3.3 with the obsolete forms of section 4.3; null where it is no date. */
export function parseDate(raw: string): MailDate | null {
  const parts = DATE.exec(withoutComments(raw).trim());
  if (!parts) return null;
  const [, day, month = '', yearText = '', hour, minute, second, zoneText] = parts;
  const number = MONTHS.indexOf(month.toLowerCase());
  let year = Number(yearText);
  if (yearText.length === 2) year += year < 50 ? 2000 : 1900;
  else if (yearText.length === 3) year += 1900;
  const zone = zoneOffset(zoneText);
  const [d, h, m, s] = [Number(day), Number(hour), Number(minute), Number(second ?? 0)];
  if (number < 0 || year < 1900 || d < 1 || d > 31 || h > 23 || m > 59 || s > 60) return null;
  const time = Date.UTC(year, number, d, h, m, s);
  // 31 April is no date.
  if (new Date(time).getUTCDate() !== d && s < 60) return null;
  return { time: time - zone * 60_000, zone };
}

const zoneOffset = (text = ''): number => maybeZone(text) ?? ZONES[text.toLowerCase()] ?? 0;

/** Minutes east of UTC of `+hhmm`; null for any other text. */
export function maybeZone(text: string): number | null {
  const digits = /^([+-])(\d{2})(\d{2})$/.exec(text);
  if (!digits) return null;
  const minutes = Number(digits[2]) * 60 + Number(digits[3]);
  return digits[1] === '-' ? -minutes : minutes;
}

export const DATE_PARTS = /^(year|month|day|date|julian|hour|minute|second|time|iso8601|std11|zone|weekday)$/i;

const two = (value: number): string => String(value).padStart(2, '0');

/** A part of a moment as seen in a zone (RFC 5260 section 4.2), or null for an unknown part. */
export function dateParts(time: number, zone: number, part: string): string | null {
  const at = new Date(time + zone * 60_000);
  const [year, month, day] = [String(at.getUTCFullYear()).padStart(4, '0'), at.getUTCMonth(), at.getUTCDate()];
  const clock = `${two(at.getUTCHours())}:${two(at.getUTCMinutes())}:${two(at.getUTCSeconds())}`;
  const calendar = `${year}-${two(month + 1)}-${two(day)}`;
  const sign = zone < 0 ? '-' : '+';
  const [hours, minutes] = [two(Math.floor(Math.abs(zone) / 60)), two(Math.abs(zone) % 60)];
  switch (part.toLowerCase()) {
    case 'year':
      return year;
    case 'month':
      return two(month + 1);
    case 'day':
      return two(day);
    case 'date':
      return calendar;
    case 'julian':
      // The modified Julian day: 17 November 1858 is day 0.
      return String(Math.floor((time + zone * 60_000) / 86_400_000) + 40_587);
    case 'hour':
      return two(at.getUTCHours());
    case 'minute':
      return two(at.getUTCMinutes());
    case 'second':
      return two(at.getUTCSeconds());
    case 'time':
      return clock;
    case 'iso8601':
      return `${calendar}T${clock}${sign}${hours}:${minutes}`;
    case 'std11': {
      const weekday = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'][at.getUTCDay()];
      const name = elementAt(MONTHS, month).replace(/^./, (letter) => letter.toUpperCase());
      return `${weekday}, ${two(day)} ${name} ${year} ${clock} ${sign}${hours}${minutes}`;
    }
    case 'zone':
      return `${sign}${hours}${minutes}`;
    case 'weekday':
      return String(at.getUTCDay());
    default:
      return null;
  }
}
