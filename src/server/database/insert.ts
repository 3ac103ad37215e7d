import { getTableColumns, sql } from 'drizzle-orm';
import type { SQLiteTable } from 'drizzle-orm/sqlite-core';
import { connectionOf, type Store } from './open';

/**
 * A prepared statement that inserts rows; building a statement for each row makes an import nearly twice as slow
 * (measured), and so does Drizzle's look for what is to be filled in, by a tenth. Every column must be given but those
 * `left` out, which are null. Not for a transaction object, but it may be used while one is open.
 */
export function preparedInsert<T extends SQLiteTable, L extends keyof T['$inferSelect'] & string = never>(
  store: Store,
  table: T,
  ...left: readonly L[]
): (row: Omit<T['$inferSelect'], L>) => void {
  const columns = Object.entries(getTableColumns(table)).filter(([name]) => !left.some((one) => one === name));
  const values = Object.fromEntries(columns.map(([name]) => [name, sql.placeholder(name)]));
  // A placeholder can stand for a value of any type.
  const query = store.insert(table).values(values as unknown as T['$inferInsert']);
  const statement = connectionOf(store).prepare(query.toSQL().sql);
  return (row) => {
    const given: Record<string, unknown> = row;
    const bound = columns.map(([name, column]) => {
      const value = given[name];
      return value === null || value === undefined ? null : column.mapToDriverValue(value);
    });
    statement.run(bound);
  };
}
