import { getTableColumns, sql } from 'drizzle-orm';
import type { SQLiteTable } from 'drizzle-orm/sqlite-core';
import type { Store } from './open';

/**
 * A prepared statement that inserts rows; building a statement for each row makes an import nearly twice as slow
 * (measured). Every column must be given but those `left` out, which are null.
 */
export function preparedInsert<T extends SQLiteTable, L extends keyof T['$inferSelect'] & string = never>(
  store: Store,
  table: T,
  ...left: readonly L[]
): (row: Omit<T['$inferSelect'], L>) => void {
  const names = Object.keys(getTableColumns(table)).filter((name) => !left.some((one) => one === name));
  const values = Object.fromEntries(names.map((name) => [name, sql.placeholder(name)]));
  // A placeholder can stand for a value of any type.
  const statement = store
    .insert(table)
    .values(values as unknown as T['$inferInsert'])
    .prepare();
  return (row) => void statement.run(row);
}
