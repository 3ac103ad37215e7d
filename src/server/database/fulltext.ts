import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/**
 * The index of words (SQLite FTS5), which a migration makes: it keeps no texts, only where their words stand. It stands apart from the
 * schema, since a virtual table cannot be generated from its declaration.
 */
export const messageTexts = sqliteTable('message_text', {
  rowid: integer().primaryKey(),
  subject: text().notNull(),
  people: text().notNull(),
  body: text().notNull(),
});
