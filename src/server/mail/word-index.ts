import { and, gte, lt, sql } from 'drizzle-orm';
import { messageTexts } from '../database/fulltext';
import { preparedInsert } from '../database/insert';
import type { Store } from '../database/open';

/** The words of one message for the full-text index. */
export interface MessageWords {
  readonly number: number;
  readonly subject: string;
  readonly people: string;
  readonly body: string;
}

/** Most messages of an audit in the index: row ids combine audit and message. */
const MOST_MESSAGES = 2 ** 31;
const rowOf = (ordinal: number, number: number): number => ordinal * MOST_MESSAGES + number;

/** Inserts the words of a message into the index; prepared once, like all inserts of an import. */
export function preparedIndexing(store: Store, ordinal: number): (words: MessageWords) => void {
  const insert = preparedInsert(store, messageTexts);
  return ({ number, ...words }) => insert({ rowid: rowOf(ordinal, number), ...words });
}

/** Removes the messages from `first` to before `end` from the index. */
export function dropWords(store: Store, ordinal: number, first: number, end: number = MOST_MESSAGES): void {
  const [from, to] = [rowOf(ordinal, first), rowOf(ordinal, end)];
  store
    .delete(messageTexts)
    .where(and(gte(messageTexts.rowid, from), lt(messageTexts.rowid, to)))
    .run();
}

/**
 * The percentage of deleted entries at which a part of the index is rewritten; above 100 never. The database stores it.
 * Rewriting takes up to a second at once, so it is left to the next import while much is deleted in steps.
 */
export function setWrittenAnewAt(store: Store, percent: typeof USUAL | typeof NEVER): void {
  store.run(sql`insert into message_text (message_text, rank) values ('deletemerge', cast(${percent} as integer))`);
}
export const USUAL = 10;
export const NEVER = 101;

/** `head`: sender, recipients or subject. */
export type WordsWhere = 'anywhere' | 'head' | 'subject' | 'people' | 'body';

/**
 * The messages that contain all words, in any order. Words in quotation marks must be consecutive, and the last word
 * may be a prefix. None for an empty query.
 */
export function messagesWithWords(
  store: Store,
  ordinal: number,
  asked: string,
  where: WordsWhere = 'anywhere',
): number[] {
  const query = queryOf(asked, where);
  if (query === '') return [];
  const [from, to] = [rowOf(ordinal, 0), rowOf(ordinal + 1, 0)];
  return store
    .select({ rowid: messageTexts.rowid })
    .from(messageTexts)
    .where(and(sql`${messageTexts} match ${query}`, gte(messageTexts.rowid, from), lt(messageTexts.rowid, to)))
    .all()
    .map(({ rowid }) => rowid - from);
}

/** Every piece is quoted, so that FTS5 operators have no effect. */
function queryOf(asked: string, where: WordsWhere): string {
  const pieces = [...asked.matchAll(/"([^"]*)"|([^\s"]+)/g)].map(([, exact, word]) => ({ exact, word }));
  const readable = pieces.filter(({ exact, word }) => /[\p{L}\p{N}]/u.test(exact ?? word ?? ''));
  const terms = readable.map(({ exact, word }, at) => {
    const unfinished = at === readable.length - 1 && exact === undefined && !/\s$/.test(asked);
    return `"${exact ?? word}"${unfinished ? '*' : ''}`;
  });
  if (terms.length === 0) return '';
  const all = terms.join(' ');
  return where === 'anywhere' ? all : `${where === 'head' ? '{subject people}' : where} : (${all})`;
}
