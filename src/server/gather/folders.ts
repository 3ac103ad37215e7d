import { and, eq, lt } from 'drizzle-orm';
import { getAudit, Refusal } from '../audits/audits';
import { inTransaction, type Store } from '../database/open';
import { messages, sources } from '../database/schema';

/** Renames a folder of the stored mail, or merges it into the one of that name; returns its number of messages. */
export function renameFolder(store: Store, auditId: string, from: string, to: string): number {
  const audit = getAudit(store, auditId);
  const name = to.toUpperCase() === 'INBOX' ? 'INBOX' : to;
  return inTransaction(store, (tx) => {
    const { changes } = tx
      .update(messages)
      .set({ folder: name })
      .where(and(eq(messages.auditId, auditId), eq(messages.folder, from), lt(messages.number, audit.messageCount)))
      .run();
    if (renameEmpty(tx, auditId, from, name) + changes === 0) throw new Refusal('There is no such folder.', 404);
    return changes;
  });
}

/** Renames a folder that was imported as such and may be empty; returns the number of files that contain it. */
function renameEmpty(store: Store, auditId: string, from: string, name: string): number {
  const rows = store
    .select({ id: sources.id, folders: sources.folders })
    .from(sources)
    .where(eq(sources.auditId, auditId))
    .all()
    .filter(({ folders }) => folders.includes(from));
  for (const { id, folders } of rows) {
    const named = [...new Set(folders.map((folder) => (folder === from ? name : folder)))];
    store.update(sources).set({ folders: named }).where(eq(sources.id, id)).run();
  }
  return rows.length;
}

/** Folders that were imported as such; some may be empty. */
export function emptyToo(store: Store, auditId: string): string[] {
  const rows = store
    .select({ folders: sources.folders })
    .from(sources)
    .where(and(eq(sources.auditId, auditId), eq(sources.state, 'ready')))
    .all();
  return [...new Set(rows.flatMap(({ folders }) => folders))];
}
