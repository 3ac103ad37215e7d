import { and, eq, lt } from 'drizzle-orm';
import { getAudit, Refusal } from './audits';
import type { Store } from './database/open';
import { messages } from './database/schema';

/** Gives a folder of the stored mail another name, or joins it to the one of that name; returns how many messages it held. */
export function renameFolder(store: Store, auditId: string, from: string, to: string): number {
  const audit = getAudit(store, auditId);
  const name = to.toUpperCase() === 'INBOX' ? 'INBOX' : to;
  const { changes } = store
    .update(messages)
    .set({ folder: name })
    .where(and(eq(messages.auditId, auditId), eq(messages.folder, from), lt(messages.number, audit.messageCount)))
    .run();
  if (changes === 0) throw new Refusal('There is no such folder.', 404);
  return changes;
}
