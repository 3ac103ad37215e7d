import { and, asc, count, eq, lt } from 'drizzle-orm';
import { type StoredMail, Valued } from '../core/audit/stored';
import { INBOX } from '../core/sieve/interpret/fate';
import type { Audit } from './audits';
import type { Store } from './database/open';
import { messages } from './database/schema';
import { maybeKnown, recipientsOf } from './knowledge';
import { Recent } from './recent';

/** What findings look at in the stored mail; conversations only where they were worked out. */
export function storedMail(store: Store, audit: Audit): StoredMail {
  const recipients = recipientsOf(store, audit, ['to', 'cc']);
  const conversations = maybeKnown(store, audit, 'conversations');
  const rows = store
    .select({
      folder: messages.folder,
      flags: messages.flags,
      sender: messages.fromAddress,
      senderName: messages.fromName,
      subject: messages.subject,
      date: messages.date,
      listId: messages.listId,
    })
    .from(messages)
    .where(and(eq(messages.auditId, audit.id), lt(messages.number, audit.messageCount)))
    .orderBy(asc(messages.number))
    .all();
  const found = rows.map(({ flags, sender, ...row }, number) => ({
    ...row,
    seen: flags.includes('\\seen'),
    answered: flags.includes('\\answered'),
    flagged: flags.includes('\\flagged'),
    sender: sender.toLowerCase(),
    recipients: [...new Set(recipients[number]?.map((address) => address.toLowerCase()))],
    conversation: conversations?.[number] ?? number,
  }));
  const folders = new Set(found.map(({ folder }) => folder));
  folders.add(INBOX);
  return { messages: found, own: new Set(audit.ownAddresses), folders: found.length > 0 ? folders : null };
}

const recent = new Recent<Valued>(2, () => 1);

/** The same with what the user shows to value, which takes seconds for a large mailbox and is looked at by several pages. */
export function valuedMail(store: Store, audit: Audit): Valued {
  const conversations = maybeKnown(store, audit, 'conversations') !== null;
  const name = `${audit.id} ${audit.messageCount} ${conversations} ${audit.ownAddresses.join(' ')} ${foldersOf(store, audit)}`;
  const known = recent.get(name) ?? new Valued(storedMail(store, audit));
  recent.set(name, known);
  return known;
}

/** Which folders hold how many messages: another text when any is called otherwise. */
function foldersOf(store: Store, { id, messageCount }: Audit): string {
  const rows = store
    .select({ folder: messages.folder, held: count() })
    .from(messages)
    .where(and(eq(messages.auditId, id), lt(messages.number, messageCount)))
    .groupBy(messages.folder)
    .values();
  return JSON.stringify(rows);
}
