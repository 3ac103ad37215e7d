import { and, eq, lt, sql } from 'drizzle-orm';
import { getAudit, Refusal } from '../audits/audits';
import { mailServers } from '../database/mailbox-schema';
import { inTransaction, type Store } from '../database/open';
import { audits, messages, sources } from '../database/schema';

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
    const also = tx.run(sql`update message set places =
      (select json_group_array(case value when ${from} then ${name} else value end) from json_each(message.places))
      where audit_id = ${auditId} and places is not null
      and exists (select 1 from json_each(message.places) where value = ${from})`).changes;
    // What files tell is renamed too, for when it counts again.
    tx.run(sql`update message set as_file = json_set(as_file, '$.folder', ${name})
      where audit_id = ${auditId} and json_extract(as_file, '$.folder') = ${from}`);
    renameFetched(tx, auditId, from, name);
    if (renameEmpty(tx, auditId, from, name) + changes + also === 0) throw new Refusal('There is no such folder.', 404);
    countAnew(tx, auditId);
    return changes;
  });
}

/** To be called in the transaction that changes where messages are: what was computed before is out of date. */
export function countAnew(tx: Store, auditId: string): void {
  tx.update(audits)
    .set({ mailEdition: sql`${audits.mailEdition} + 1` })
    .where(eq(audits.id, auditId))
    .run();
}

/** Mail that is fetched later comes into the folder of the new name. */
function renameFetched(tx: Store, auditId: string, from: string, name: string): void {
  const uses = Object.fromEntries(
    Array.from(getAudit(tx, auditId).folderUses, ([folder, use]) => [folder === from ? name : folder, use]),
  );
  tx.update(audits).set({ folderUses: uses }).where(eq(audits.id, auditId)).run();
  const server = tx.select().from(mailServers).where(eq(mailServers.auditId, auditId)).get();
  if (!server) return;
  const { folders, renamed } = server;
  const now = folders.flatMap((path) => ((renamed[path] ?? path) === from ? [[path, name] as const] : []));
  tx.update(mailServers)
    .set({ renamed: { ...renamed, ...Object.fromEntries(now) } })
    .where(eq(mailServers.auditId, auditId))
    .run();
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
