import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/**
 * The full-text index (SQLite FTS5), created by a migration. It stores no texts, only the positions of words. It is not
 * in the schema, since Drizzle cannot generate a virtual table.
 */
export const messageTexts = sqliteTable('message_text', {
  rowid: integer().primaryKey(),
  subject: text().notNull(),
  people: text().notNull(),
  body: text().notNull(),
});
