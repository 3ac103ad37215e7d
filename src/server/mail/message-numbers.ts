import { and, eq, lt, notInArray, or, type SQL, sql } from 'drizzle-orm';
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
): Map<string, readonly number[]> {
  const rows = store
    .select({ value: sql<string>`${column}`, numbers: joined(messages.number) })
    .from(messages)
    .where(and(counted(audit), condition))
    .groupBy(column)
    .all();
  return new Map(rows.map(({ value, numbers }) => [value, split(numbers).map(Number)]));
}

/** The dates of messages by number; NaN if unknown. */
export function datesOf(store: Store, audit: Audit): Float64Array {
  const dates = new Float64Array(audit.messageCount).fill(Number.NaN);
  const row = store
    .select({ numbers: joined(messages.number), dates: joined(sql`coalesce(${messages.date}, '')`) })
    .from(messages)
    .where(counted(audit))
    .get();
  const written = split(row?.dates ?? '');
  split(row?.numbers ?? '').forEach((number, at) => {
    const date = written[at];
    if (date) dates[Number(number)] = Number(date);
  });
  return dates;
}

const joined = (column: AnySQLiteColumn | SQL): SQL<string> => sql`group_concat(${column})`;
const split = (numbers: string): string[] => (numbers === '' ? [] : numbers.split(','));

/** The rows of present messages: not those of a running import, nor those that only removed sources contain. */
export function counted({ id, messageCount, storedCount, removedSources }: Audit): SQL | undefined {
  const numbered = and(eq(messages.auditId, id), lt(messages.number, messageCount));
  // If all are present, the query can use the index alone.
  if (storedCount === messageCount) return numbered;
  const repeated = sql`exists (select 1 from ${repeats} where ${repeats.auditId} = ${messages.auditId}
    and ${repeats.number} = ${messages.number} and ${notInArray(repeats.sourceId, [...removedSources])})`;
  return and(numbered, or(notInArray(messages.sourceId, [...removedSources]), repeated));
}

const recentPresent = new Region<Bitmap>({
  name: 'messages that are there',
  most: 64 * 1024 * 1024,
  weigh: ({ words }) => words.byteLength,
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
