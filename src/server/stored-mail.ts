import { and, asc, eq, lt } from 'drizzle-orm';
import type { StoredMail } from '../core/audit/stored';
import { INBOX } from '../core/sieve/interpret/fate';
import type { Audit } from './audits';
import type { Store } from './database/open';
import { messages } from './database/schema';
import { maybeKnown, recipientsOf } from './knowledge';

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
