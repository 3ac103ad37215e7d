import { Bitmap } from '../../core/flow/bitmap';
import type { EntryFlow, Flow } from '../../core/flow/flow';
import { elementAt } from '../../core/text/lookup';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { mailKey } from '../cache/keys';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { endingAt } from '../mail/list-view';
import { datesOf, messageNumbersBy } from '../mail/message-numbers';
import { unreadMessages } from '../mail/traffic';
import { type Destination, destinationsOf, targetsOf } from './destinations';
import { getFlow, maybeFlow } from './simulation';

/** The number of messages from one rule to one destination. */
export interface StreamLink {
  /** The rule's id; null for mail that no rule files, and for the smaller rules combined. */
  readonly rule: string | null;
  readonly name: string;
  readonly destination: string;
  readonly count: number;
}

/** The flow of mail from rules to destinations. */
export interface StreamsView {
  readonly total: number;
  readonly destinations: readonly Destination[];
  /** Largest first. */
  readonly links: readonly StreamLink[];
}

/** Rules shown by name for one destination; the rest are combined. */
const NAMED = 200;

/** From which rules mail goes to which destinations; null while unknown. */
export function maybeStreams(store: Store, auditId: string): StreamsView | null {
  const audit = getAudit(store, auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  if (!flow) return null;
  const destinations = destinationsOf(audit.draft, flow, unreadMessages(store, audit));
  const entries = new Map<string, EntryFlow[]>(destinations.map(({ key }) => [key, []]));
  for (const own of flow.entries) for (const key of targetsOf(own.entry)) entries.get(key)?.push(own);
  const links = destinations.flatMap(({ key }) => linksTo(flow, key, entries.get(key) ?? []));
  return { total: flow.total, destinations, links: links.sort((a, b) => b.count - a.count).slice(0, NAMED) };
}

/** `entries` are those with this destination. */
function linksTo(flow: Flow, key: string, entries: readonly EntryFlow[]): StreamLink[] {
  const there = endingAt(flow, key);
  const links: StreamLink[] = [];
  let rest = there;
  for (const { entry, fired } of entries) {
    const taken = fired.and(there);
    rest = rest.without(taken);
    const count = taken.count();
    if (count > 0) links.push({ rule: entry.id, name: entry.name, destination: key, count });
  }
  const left = rest.count();
  if (left > 0)
    links.push({ rule: null, name: key === 'inbox' ? 'no rule' : 'scripts', destination: key, count: left });
  return links;
}

/** The origins of the mail of one destination. */
export interface OriginsView {
  readonly count: number;
  readonly total: number;
  /** Largest first, at most `SHOWN_ORIGINS`. */
  readonly domains: readonly { readonly domain: string; readonly count: number }[];
  readonly months: MonthsView;
}

/** Messages by month over the time in which nearly all stored mail arrived. */
export interface MonthsView {
  readonly months: readonly Month[];
  /** Messages with an earlier or a later date: wrong dates would press all other mail into one month. */
  readonly before: number;
  readonly after: number;
}

interface Month {
  /** As `2026-04`. */
  readonly month: string;
  readonly count: number;
}

const SHOWN_ORIGINS = 12;

export function originsView(store: Store, auditId: string, destination: string): OriginsView {
  const audit = getAudit(store, auditId);
  const flow = getFlow(store, audit);
  const there = endingAt(flow, destination);
  const { domains, dates, span } = rowsOf(store, audit);
  const counts = new Map<string, number>();
  for (const number of there.members()) {
    const domain = domains[number] ?? '';
    counts.set(domain, (counts.get(domain) ?? 0) + 1);
  }
  return {
    count: there.count(),
    total: flow.total,
    domains: [...counts]
      .map(([domain, count]) => ({ domain, count }))
      .sort((a, b) => b.count - a.count || (a.domain < b.domain ? -1 : 1))
      .slice(0, SHOWN_ORIGINS),
    months: monthsOf(there, dates, span),
  };
}

/** When a rule acted. */
export interface HistoryView {
  readonly fired: number;
  readonly months: MonthsView;
  /** The newest message it acted on; null if none, or none with a date. */
  readonly last: { readonly number: number; readonly date: number } | null;
}

export function historyView(store: Store, auditId: string, ruleId: string): HistoryView {
  const audit = getAudit(store, auditId);
  const own = getFlow(store, audit).entries.find(({ entry }) => entry.id === ruleId);
  if (!own) throw new Refusal('There is no such rule.', 404);
  const { dates, span } = rowsOf(store, audit);
  let last: HistoryView['last'] = null;
  for (const number of own.fired.members()) {
    const date = elementAt(dates, number);
    if (!Number.isNaN(date) && (last === null || date > last.date)) last = { number, date };
  }
  return { fired: own.fired.count(), months: monthsOf(own.fired, dates, span), last };
}

/** Data of every message that is needed repeatedly, by number. */
interface Rows {
  /** Milliseconds since 1970; NaN if unknown. */
  readonly dates: Float64Array;
  /** The domain of the sender's address, in lower case. */
  readonly domains: readonly string[];
  readonly span: Span | null;
}

/** The first and the last month in which nearly all mail arrived, as numbers. */
interface Span {
  readonly first: number;
  readonly last: number;
}

/** The share of the mail, at each end, that may have a wrong date. */
const OUTSIDE = 0.005;

/** Null if no message has a date. */
function spanOf(dates: Float64Array): Span | null {
  const known = dates.filter((date) => !Number.isNaN(date)).sort();
  const outside = Math.floor(known.length * OUTSIDE);
  const [first, last] = [known[outside], known[known.length - 1 - outside]];
  return first === undefined || last === undefined ? null : { first: monthNumber(first), last: monthNumber(last) };
}

const recentRows = new Region<Rows>({
  name: 'dates and domains',
  most: 256 * 1024 * 1024,
  weigh: ({ domains }) => 24 * domains.length,
  entries: 4,
});

function rowsOf(store: Store, audit: Audit): Rows {
  const name = mailKey(audit);
  const known = recentRows.get(name);
  if (known) return known;
  const dates = datesOf(store, audit);
  const domains: string[] = new Array(audit.messageCount).fill('');
  for (const [from, numbers] of messageNumbersBy(store, audit, messages.fromAddress)) {
    const domain = from.slice(from.lastIndexOf('@') + 1).toLowerCase();
    for (const number of numbers) domains[number] = domain;
  }
  const read = { dates, domains, span: spanOf(dates) };
  recentRows.set(name, read);
  return read;
}

/** Counts by month in UTC, from the first to the last month of nearly all mail; empty months are included. */
function monthsOf(chosen: Bitmap, dates: Float64Array, span: Span | null): MonthsView {
  if (!span) return { months: [], before: 0, after: 0 };
  const { first, last } = span;
  const counts = new Array<number>(last - first + 1).fill(0);
  let [before, after] = [0, 0];
  for (const number of chosen.members()) {
    const date = elementAt(dates, number);
    if (Number.isNaN(date)) continue;
    const month = monthNumber(date);
    if (month < first) before++;
    else if (month > last) after++;
    else counts[month - first] = (counts[month - first] ?? 0) + 1;
  }
  return { months: counts.map((count, at) => ({ month: monthName(first + at), count })), before, after };
}

function monthNumber(time: number): number {
  const date = new Date(time);
  return date.getUTCFullYear() * 12 + date.getUTCMonth();
}

const monthName = (number: number): string =>
  `${Math.floor(number / 12)}-${String((number % 12) + 1).padStart(2, '0')}`;

/** The mail of one rule on its way through the whole chain, for every rung. */
export interface RuleMailView {
  readonly rule: string;
  /** Whether this is the mail the rule acts on; if it acts on none, the mail that matches its tests. */
  readonly of: 'fired' | 'held';
  readonly total: number;
  /** How many of these messages reach each rung, in chain order. */
  readonly passing: readonly number[];
}

export function ruleMailView(store: Store, auditId: string, rule: string): RuleMailView {
  const audit = getAudit(store, auditId);
  const flow = getFlow(store, audit);
  const own = flow.entries.find(({ entry }) => entry.id === rule);
  if (!own) throw new Refusal('There is no such rule.', 404);
  const of = own.fired.isEmpty() ? 'held' : 'fired';
  const mail = own[of];
  let ended = new Bitmap(flow.count);
  const passing = flow.entries.map(({ stopped }) => {
    const here = mail.without(ended).count();
    ended = ended.or(stopped);
    return here;
  });
  return { rule, of, total: mail.count(), passing };
}
