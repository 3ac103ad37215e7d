import { and, eq, gte, lt, max, sql } from 'drizzle-orm';
import { atOnce, type Steps } from '../../core/audit/stepwise';
import { Bitmap } from '../../core/flow/bitmap';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import { inTransaction, type Store } from '../database/open';
import { makingRoom } from '../database/reserve';
import { audits, columnPieces, messages, rawPieces, sources } from '../database/schema';
import { maybePresent, messageNumbersBy, presentWithout } from '../mail/message-numbers';
import { dropWords } from '../mail/word-index';
import { countAnew } from './folders';

/**
 * Imported mail can be removed and restored. Its messages keep their numbers, so that bitmaps stay valid; until then
 * they are left out of every view, count and file. A message contained in several files and in one
 * folder, is present as long as one of these files is.
 */

/** The effect of removing a source of mail. */
export interface RemovalView {
  /** Messages that would be removed, and all present ones. */
  readonly messages: number;
  readonly total: number;
  /** Their folders, largest first. */
  readonly folders: readonly { readonly folder: string; readonly messages: number }[];
  /** Rules that act on any of them, those that lose most first; null while the chain is not simulated. */
  readonly rules:
    | readonly { readonly id: string; readonly name: string; readonly now: number; readonly after: number }[]
    | null;
  /** Rules that act on some stored message now and on none afterwards. */
  readonly unused: number;
}

const SHOWN_RULES = 8;
const SHOWN_FOLDERS = 8;

export function removalView(store: Store, auditId: string, sourceId: string): RemovalView {
  const audit = getAudit(store, auditId);
  if (sourceOf(store, audit, sourceId).state !== 'ready') throw new Refusal('No message of this file is stored.', 409);
  const before = maybePresent(store, audit) ?? Bitmap.full(audit.messageCount);
  const going = before.without(presentWithout(store, audit, [...audit.removedSources, sourceId]));
  const folders = Array.from(messageNumbersBy(store, audit, messages.folder), ([folder, numbers]) => {
    return { folder, messages: numbers.filter((number) => going.has(number)).length };
  });
  const losing = maybeFlow(store, audit, audit.draft)?.entries.flatMap(({ entry, fired }) => {
    const lost = fired.and(going).count();
    const now = fired.count();
    return lost === 0 ? [] : [{ id: entry.id, name: entry.name, now, after: now - lost }];
  });
  return {
    messages: going.count(),
    total: audit.storedCount,
    folders: folders
      .filter((one) => one.messages > 0)
      .sort((a, b) => b.messages - a.messages)
      .slice(0, SHOWN_FOLDERS),
    rules: losing?.sort((a, b) => b.now - b.after - (a.now - a.after)).slice(0, SHOWN_RULES) ?? null,
    unused: losing?.filter(({ after }) => after === 0).length ?? 0,
  };
}

/** Removes a source: its messages no longer count. A source without stored messages is deleted. */
export function removeSource(store: Store, auditId: string, sourceId: string): void {
  inTransaction(store, (tx) => {
    const { state } = sourceOf(tx, getAudit(tx, auditId), sourceId);
    if (state === 'importing') throw new Refusal('This file is still being imported. Cancel the import first.', 409);
    if (state === 'ready') setState(tx, auditId, sourceId, 'removed');
    else if (state !== 'removed') tx.delete(sources).where(eq(sources.id, sourceId)).run();
  });
}

/** Restores a removed source: its messages count again. */
export function restoreSource(store: Store, auditId: string, sourceId: string): void {
  inTransaction(store, (tx) => {
    const { state } = sourceOf(tx, getAudit(tx, auditId), sourceId);
    if (state === 'removed') setState(tx, auditId, sourceId, 'ready');
    else if (state !== 'ready') throw new Refusal('Only a removed file can be restored.', 409);
  });
}

/** Marks a source as removed or present; to be called within a transaction. */
export function setState(tx: Store, auditId: string, sourceId: string, state: 'ready' | 'removed'): void {
  tx.update(sources).set({ state }).where(eq(sources.id, sourceId)).run();
  recount(tx, auditId);
}

/** Updates the number of present messages after sources were removed or restored, in the same transaction. */
export function recount(tx: Store, auditId: string): void {
  countAnew(tx, auditId);
  const audit = getAudit(tx, auditId);
  const removedCount = audit.messageCount - presentWithout(tx, audit, audit.removedSources).count();
  tx.update(audits).set({ removedCount }).where(eq(audits.id, auditId)).run();
}

/** A stored message with identical octets, and its flags as JSON. */
export interface Held {
  readonly number: number;
  readonly flags: readonly string[];
}

/**
 * Searches the messages numbered below `before` in one folder, including those of removed sources. Prepared once, since
 * an import asks for every message.
 */
export function preparedHolder(
  store: Store,
  auditId: string,
  before: number,
): (digest: string, folder: string) => Held | undefined {
  const { digest, folder, asFile, number, flags } = messages;
  const statement = store
    .select({ number, flags })
    .from(messages)
    .where(
      and(
        eq(messages.auditId, auditId),
        eq(digest, sql.placeholder('digest')),
        // Uses only the index of digests. A header field may have named another folder since.
        sql`coalesce(json_extract(${asFile}, '$.folder'), ${folder}) = ${sql.placeholder('folder')}`,
        sql`+${number} < ${before}`,
      ),
    )
    .limit(1)
    .prepare();
  return (digest, folder) => statement.get({ digest, folder });
}

function sourceOf(store: Store, audit: Audit, sourceId: string) {
  const source = store
    .select({ state: sources.state })
    .from(sources)
    .where(and(eq(sources.auditId, audit.id), eq(sources.id, sourceId)))
    .get();
  if (!source) throw new Refusal('There is no such file.', 404);
  return source;
}

/** The first message of a source whose reading has not started. */
export const NOT_STARTED = -1;

/** Adds a source whose messages are still to be read. */
export function keepSource(
  tx: Store,
  source: Omit<typeof sources.$inferInsert, 'state' | 'firstMessage' | 'messages' | 'statement' | 'createdAt'>,
): void {
  const unread = { state: 'importing', firstMessage: NOT_STARTED, messages: 0, statement: '' } as const;
  tx.insert(sources)
    .values({ ...source, ...unread, createdAt: Date.now() })
    .run();
}

/** Messages deleted in one transaction, so that no other writer waits long. */
const STEP = 2000;

/**
 * Deletes everything an import has written; the source's row stays and says why. What was fetched from a server and is
 * kept already stays too.
 */
export const dropSourceMail = (store: Store, sourceId: string): void => atOnce(droppingSourceMail(store, sourceId));

/** The same in steps of less than a tenth of a second. */
export function* droppingSourceMail(store: Store, sourceId: string): Steps<void> {
  const source = store.select().from(sources).where(eq(sources.id, sourceId)).get();
  // Imports of an audit run one after another, so an unfinished one is always the last.
  if (!source || source.firstMessage === NOT_STARTED) return;
  yield* droppingFrom(store, source.auditId, source.firstMessage + source.messages);
}

/**
 * Deletes the messages of an audit from a number on, the last ones first, so that an interruption looks as if less had
 * been read.
 */
export function* droppingFrom(store: Store, auditId: string, first: number): Steps<void> {
  const audit = store.select().from(audits).where(eq(audits.id, auditId)).get();
  const end = Math.max(first, lastNumber(store, auditId) + 1);
  for (let from = end - ((end - first) % STEP); from >= first; from -= STEP) {
    makingRoom(() =>
      inTransaction(store, (tx) => {
        for (const table of [rawPieces, messages]) {
          const ofStep = and(eq(table.auditId, auditId), gte(table.number, from), lt(table.number, from + STEP));
          tx.delete(table).where(ofStep).run();
        }
        const pieces = and(eq(columnPieces.auditId, auditId), gte(columnPieces.first, from));
        tx.delete(columnPieces).where(pieces).run();
        if (audit) dropWords(tx, audit.ordinal, from, from + STEP);
      }),
    );
    yield;
  }
}

/** The number of the last stored message of an audit, counted or not; -1 if there is none. */
function lastNumber(store: Store, auditId: string): number {
  const last = store
    .select({ number: max(messages.number) })
    .from(messages)
    .where(eq(messages.auditId, auditId))
    .get();
  return last?.number ?? -1;
}
