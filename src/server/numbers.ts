import { and, eq, lt, type SQL, sql } from 'drizzle-orm';
import type { AnySQLiteColumn } from 'drizzle-orm/sqlite-core';
import type { Audit } from './audits';
import type { Store } from './database/open';
import { messages } from './database/schema';

/**
 * The numbers of an audit's messages by what stands in a column. They come as one text for each value: a row for each
 * message takes SQLite's binding many times as long.
 */
export function numbersBy(
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
    .values() as [string, string][];
  return new Map(rows.map(([value, numbers]) => [value, split(numbers).map(Number)]));
}

/** The dates that an audit's messages bear, by their number; not a number where there is none. */
export function datesOf(store: Store, audit: Audit): Float64Array {
  const dates = new Float64Array(audit.messageCount).fill(Number.NaN);
  const [row] = store
    .select({ numbers: joined(messages.number), dates: joined(sql`coalesce(${messages.date}, '')`) })
    .from(messages)
    .where(counted(audit))
    .values() as [string | null, string | null][];
  const written = split(row?.[1] ?? '');
  split(row?.[0] ?? '').forEach((number, at) => {
    const date = written[at];
    if (date) dates[Number(number)] = Number(date);
  });
  return dates;
}

const joined = (column: AnySQLiteColumn | SQL): SQL<string> => sql`group_concat(${column})`;
const split = (numbers: string): string[] => (numbers === '' ? [] : numbers.split(','));

/** Rows of an import under way lie beyond what the audit counts. */
const counted = ({ id, messageCount }: Audit): SQL | undefined =>
  and(eq(messages.auditId, id), lt(messages.number, messageCount));
