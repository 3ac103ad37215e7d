import { and, eq, lt, sql } from 'drizzle-orm';
import { Bitmap } from '../core/flow/bitmap';
import type { Audit } from './audits';
import type { Store } from './database/open';
import { messages } from './database/schema';
import { Recent } from './recent';

/** Flags never change once a message is stored. */
const known = new Recent<Bitmap>(16 * 1024 * 1024, ({ words }) => words.length);

/** The stored messages that were not marked as seen; null where no message is, since nothing is known of that then. */
export function unreadMessages(store: Store, { id, messageCount }: Audit): Bitmap | null {
  const key = `${id} ${messageCount}`;
  const before = known.get(key);
  const found = before ?? Bitmap.of(messageCount, numbersOf(store, id, messageCount));
  if (!before) known.set(key, found);
  return found.count() === messageCount ? null : found;
}

function numbersOf(store: Store, id: string, count: number): number[] {
  return store
    .select({ number: messages.number })
    .from(messages)
    .where(and(eq(messages.auditId, id), lt(messages.number, count), sql`${messages.flags} not like '%"\\\\seen"%'`))
    .all()
    .map(({ number }) => number);
}
