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
  readonly months: readonly Month[];
}

export interface Month {
  /** As `2026-04`. */
  readonly month: string;
  readonly count: number;
}

const SHOWN_ORIGINS = 12;

export function originsView(store: Store, auditId: string, destination: string): OriginsView {
  const audit = getAudit(store, auditId);
  const flow = getFlow(store, audit);
  const there = endingAt(flow, destination);
  const { domains, dates } = rowsOf(store, audit);
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
    months: monthsOf(there, dates),
  };
}

/** When a rule acted. */
export interface HistoryView {
  readonly fired: number;
  /** Every month from the first to the last of the stored mail. */
  readonly months: readonly Month[];
  /** The newest message it acted on; null if none, or none with a date. */
  readonly last: { readonly number: number; readonly date: number } | null;
}

export function historyView(store: Store, auditId: string, ruleId: string): HistoryView {
  const audit = getAudit(store, auditId);
  const own = getFlow(store, audit).entries.find(({ entry }) => entry.id === ruleId);
  if (!own) throw new Refusal('There is no such rule.', 404);
  const { dates } = rowsOf(store, audit);
  let last: HistoryView['last'] = null;
  for (const number of own.fired.members()) {
    const date = elementAt(dates, number);
    if (!Number.isNaN(date) && (last === null || date > last.date)) last = { number, date };
  }
  return { fired: own.fired.count(), months: monthsOf(own.fired, dates), last };
}

/** Data of every message that is needed repeatedly, by number. */
interface Rows {
  /** Milliseconds since 1970; NaN if unknown. */
  readonly dates: Float64Array;
  /** The domain of the sender's address, in lower case. */
  readonly domains: readonly string[];
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
  const read = { dates, domains };
  recentRows.set(name, read);
  return read;
}

/** Counts by month in UTC, from the first to the last month of all mail; empty months are included. */
function monthsOf(chosen: Bitmap, dates: Float64Array): Month[] {
  let [first, last] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const date of dates) {
    if (date < first) first = date;
    if (date > last) last = date;
  }
  if (first > last) return [];
  const start = monthNumber(first);
  const counts = new Array<number>(monthNumber(last) - start + 1).fill(0);
  for (const number of chosen.members()) {
    const date = elementAt(dates, number);
    if (!Number.isNaN(date)) counts[monthNumber(date) - start] = (counts[monthNumber(date) - start] ?? 0) + 1;
  }
  return counts.map((count, at) => ({ month: monthName(start + at), count }));
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
