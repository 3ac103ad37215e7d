import { type SQL, sql } from 'drizzle-orm';
import type { SQLiteColumn } from 'drizzle-orm/sqlite-core';

/** The JSON of a column as it is written, where it need not be read: to be told apart from another, or looked through. */
export const written = (column: SQLiteColumn): SQL<string> => sql<string>`${column}`;
