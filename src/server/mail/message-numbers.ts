import { and, asc, count, desc, eq, gte, lt, notInArray, or, type SQL, sql } from 'drizzle-orm';
import type { AnySQLiteColumn } from 'drizzle-orm/sqlite-core';
import { Bitmap } from '../../core/flow/bitmap';
import type { Audit } from '../audits/audits';
import { mailKey } from '../cache/keys';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { messages, repeats, sources } from '../database/schema';

/**
 * The numbers of messages by the value of a column. They come as one text for each value, since binding a row for each
 * message takes many times as long.
 */
export function messageNumbersBy(
  store: Store,
  audit: Audit,
  column: AnySQLiteColumn,
  condition?: SQL,
): Map<string, Uint32Array> {
  const rows = store
    .select({ value: sql<string>`${column}`, numbers: joined(messages.number) })
    .from(messages)
    .where(and(counted(audit), condition))
    .groupBy(column)
    .all();
  return new Map(rows.map(({ value, numbers }) => [value, read(numbers)]));
}

/** The numbers of messages that meet a condition on flags, from the index alone if all stored messages are present. */
export function messageNumbersWith(store: Store, audit: Audit, condition: SQL): Uint32Array {
  const all = audit.storedCount === audit.messageCount;
  // The sign keeps the query from looking at each row for its number.
  const present = all
    ? and(eq(messages.auditId, audit.id), sql`+${messages.number} < ${audit.messageCount}`)
    : counted(audit);
  const row = store
    .select({ numbers: joined(messages.number) })
    .from(messages)
    .where(and(present, condition))
    .get();
  return read(row?.numbers ?? null);
}

/** The numbers of all present messages, newest first; those without a date last. */
export function messageNumbersByDate(store: Store, audit: Audit): Uint32Array {
  const ordered = store
    .select({ number: messages.number })
    .from(messages)
    .where(counted(audit))
    .orderBy(desc(messages.date), asc(messages.number))
    .as('ordered');
  const row = store
    .select({ numbers: joined(ordered.number) })
    .from(ordered)
    .get();
  return read(row?.numbers ?? null);
}

/** The dates of messages by number; NaN if unknown. */
export function datesOf(store: Store, audit: Audit): Float64Array {
  const dates = new Float64Array(audit.messageCount).fill(Number.NaN);
  const row = store
    .select({ numbers: joined(messages.number), dates: joined(sql`coalesce(${messages.date}, '')`) })
    .from(messages)
    .where(counted(audit))
    .get();
  const written = (row?.dates ?? '').split(',');
  read(row?.numbers ?? null).forEach((number, at) => {
    const date = written[at];
    if (date) dates[number] = Number(date);
  });
  return dates;
}

/** The folders of the present messages, and how many each has; largest first. */
export const folderCounts = (store: Store, audit: Audit): { readonly name: string; readonly messages: number }[] =>
  store
    .select({ name: messages.folder, messages: count() })
    .from(messages)
    .where(counted(audit))
    .groupBy(messages.folder)
    .orderBy(desc(count()), asc(messages.folder))
    .all();

const joined = (column: AnySQLiteColumn | SQL): SQL<string | null> => sql`group_concat(${column})`;

/** Whole numbers with commas between them; null for none. */
function read(numbers: string | null): Uint32Array {
  if (numbers === null || numbers === '') return new Uint32Array(0);
  let commas = 0;
  for (let at = 0; at < numbers.length; at++) if (numbers.charCodeAt(at) === COMMA) commas++;
  const found = new Uint32Array(commas + 1);
  let next = 0;
  let number = 0;
  for (let at = 0; at < numbers.length; at++) {
    const code = numbers.charCodeAt(at);
    if (code === COMMA) {
      found[next++] = number;
      number = 0;
    } else number = number * 10 + code - ZERO;
  }
  found[next] = number;
  return found;
}

const COMMA = 0x2c;
const ZERO = 0x30;

/**
 * The rows of present messages, of those from number `from` to before `to`: not those of a running import, nor those that only
 * removed sources contain.
 */
export function counted(
  { id, messageCount, storedCount, removedSources }: Audit,
  from = 0,
  to = messageCount,
): SQL | undefined {
  // With a second upper bound, SQLite would read on to the end of the mail.
  const end = lt(messages.number, Math.min(to, messageCount));
  const numbered = and(eq(messages.auditId, id), from > 0 ? gte(messages.number, from) : undefined, end);
  // If all are present, the query can use the index alone.
  if (storedCount === messageCount) return numbered;
  const repeated = sql`exists (select 1 from ${repeats} where ${repeats.auditId} = ${messages.auditId}
    and ${repeats.number} = ${messages.number} and ${notInArray(repeats.sourceId, [...removedSources])})`;
  return and(numbered, or(notInArray(messages.sourceId, [...removedSources]), repeated));
}

const recentPresent = new Region<Bitmap>({
  name: 'messages that are there',
  most: 64 * 1024 * 1024,
  weigh: ({ octets }) => octets,
});

/** The present messages; null for every number. */
export function maybePresent(store: Store, audit: Audit): Bitmap | null {
  if (audit.storedCount === audit.messageCount) return null;
  const name = mailKey(audit);
  const present = recentPresent.get(name) ?? presentWithout(store, audit, audit.removedSources);
  recentPresent.set(name, present);
  return present;
}

/** The messages that would be present if these sources were removed. */
export function presentWithout(store: Store, { id, messageCount }: Audit, removed: readonly string[]): Bitmap {
  const present = Bitmap.full(messageCount);
  const scattered = new Bitmap(messageCount);
  const numbersOf = (which: SQL) =>
    store
      .select({ number: repeats.number })
      .from(repeats)
      .where(and(eq(repeats.auditId, id), which))
      .all()
      .map(({ number }) => number);
  for (const source of removed) {
    const row = store.select().from(sources).where(eq(sources.id, source)).get();
    if (row && row.firstMessage >= 0) present.removeRange(row.firstMessage, row.firstMessage + row.messages);
    else for (const number of numbersOf(eq(repeats.sourceId, source))) scattered.add(number);
  }
  const there = scattered.isEmpty() ? present : present.without(scattered);
  for (const number of numbersOf(notInArray(repeats.sourceId, [...removed]))) there.add(number);
  return there;
}

/** The numbers of the messages that are there, ascending. */
export const presentNumbers = (store: Store, audit: Audit): Iterable<number> =>
  maybePresent(store, audit)?.members() ?? Array(audit.messageCount).keys();
