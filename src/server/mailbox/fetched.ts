import { and, eq, inArray, ne } from 'drizzle-orm';
import { preparedInsert } from '../database/insert';
import { fetchedMessages } from '../database/mailbox-schema';
import type { Store } from '../database/open';
import { messages, repeats, sources } from '../database/schema';

/** Numbers of stored messages by their UID in a folder of a server. */
export type KnownUids = ReadonlyMap<number, number>;

/** The messages of a folder that were fetched before, under its present UIDVALIDITY. */
export function knownUids(store: Store, auditId: string, folder: string, validity: string): KnownUids {
  const rows = store
    .select({ uid: fetchedMessages.uid, number: fetchedMessages.number })
    .from(fetchedMessages)
    .where(and(inFolder(auditId, folder), eq(fetchedMessages.validity, validity)))
    .all();
  return new Map(rows.map(({ uid, number }) => [uid, number]));
}

const inFolder = (auditId: string, folder: string) =>
  and(eq(fetchedMessages.auditId, auditId), eq(fetchedMessages.folder, folder));

/** The folders from which messages were fetched. */
export const fetchedFolders = (store: Store, auditId: string): string[] =>
  store
    .selectDistinct({ folder: fetchedMessages.folder })
    .from(fetchedMessages)
    .where(eq(fetchedMessages.auditId, auditId))
    .all()
    .map(({ folder }) => folder);

/** A message on the server that is stored. */
export type FetchedRow = Omit<typeof fetchedMessages.$inferSelect, 'auditId'>;

export function keepFetched(store: Store, auditId: string, rows: readonly FetchedRow[]): void {
  const insert = preparedInsert(store, fetchedMessages);
  for (const row of rows) insert({ auditId, ...row });
}

/** UIDs deleted by one statement. */
const AT_ONCE = 500;

/**
 * Messages with these UIDs are no longer in a folder of the server. Returns how many stored messages are gone by this: those
 * that the folder does not contain a second time.
 */
export function dropUids(
  tx: Store,
  auditId: string,
  folder: string,
  validity: string,
  uids: readonly number[],
): number {
  const numbers = new Set<number>();
  for (let at = 0; at < uids.length; at += AT_ONCE) {
    const among = and(
      inFolder(auditId, folder),
      eq(fetchedMessages.validity, validity),
      inArray(fetchedMessages.uid, uids.slice(at, at + AT_ONCE)),
    );
    const rows = tx.delete(fetchedMessages).where(among).returning({ number: fetchedMessages.number }).all();
    for (const { number } of rows) numbers.add(number);
  }
  return markGone(tx, auditId, numbers);
}

/** The same for all messages under any other UIDVALIDITY: their UIDs mean nothing any more. Null for all messages. */
export function dropOtherUids(tx: Store, auditId: string, folder: string, validity: string | null): number {
  const others = validity === null ? undefined : ne(fetchedMessages.validity, validity);
  const rows = tx
    .delete(fetchedMessages)
    .where(and(inFolder(auditId, folder), others))
    .returning({ number: fetchedMessages.number })
    .all();
  return markGone(tx, auditId, new Set(rows.map(({ number }) => number)));
}

/** The first number of a source whose messages have no consecutive numbers. */
export const SCATTERED = -2;

/** The source of the messages that are no longer on the server: removed, and can be restored like any other. */
const goneSource = (auditId: string): string => `gone-${auditId}`;

/** Returns how many of the messages are on the server no more. */
function markGone(tx: Store, auditId: string, numbers: ReadonlySet<number>): number {
  const fetched = new Set(
    tx
      .select({ id: sources.id, mailbox: sources.mailbox })
      .from(sources)
      .where(eq(sources.auditId, auditId))
      .all()
      .flatMap(({ id, mailbox }) => (mailbox === null ? [] : [id])),
  );
  const gone = goneSource(auditId);
  let count = 0;
  for (const number of numbers) {
    const stillThere = tx
      .select({ uid: fetchedMessages.uid })
      .from(fetchedMessages)
      .where(and(eq(fetchedMessages.auditId, auditId), eq(fetchedMessages.number, number)))
      .get();
    if (stillThere) continue;
    count++;
    const repeated = and(eq(repeats.auditId, auditId), eq(repeats.number, number));
    tx.delete(repeats)
      .where(and(repeated, inArray(repeats.sourceId, [...fetched])))
      .run();
    const one = and(eq(messages.auditId, auditId), eq(messages.number, number));
    const row = tx.select({ sourceId: messages.sourceId }).from(messages).where(one).get();
    // A file may contain it too.
    if (!row || !fetched.has(row.sourceId)) continue;
    tx.update(messages).set({ sourceId: gone }).where(one).run();
    tx.insert(repeats).values({ auditId, number, sourceId: gone }).run();
  }
  if (count > 0) countGone(tx, auditId, gone);
  return count;
}

function countGone(tx: Store, auditId: string, id: string): void {
  const rows = tx
    .select({ number: repeats.number })
    .from(repeats)
    .where(and(eq(repeats.auditId, auditId), eq(repeats.sourceId, id)))
    .all();
  const known = tx.select({ id: sources.id }).from(sources).where(eq(sources.id, id)).get();
  if (known) tx.update(sources).set({ messages: rows.length }).where(eq(sources.id, id)).run();
  else if (rows.length > 0) {
    tx.insert(sources)
      .values({
        id,
        auditId,
        fileName: 'No longer on the server',
        digest: id,
        path: null,
        mailbox: null,
        folder: '',
        bytes: 0,
        state: 'removed',
        firstMessage: SCATTERED,
        messages: rows.length,
        statement: '',
        createdAt: Date.now(),
      })
      .run();
  }
}
