import { and, sql } from 'drizzle-orm';
import { Bitmap } from '../../core/flow/bitmap';
import type { Audit } from '../audits/audits';
import { mailKey } from '../cache/keys';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { counted } from './message-numbers';

/** Flags never change once a message is stored. */
const known = new Region<Bitmap>({
  name: 'unread messages',
  most: 64 * 1024 * 1024,
  weigh: ({ words }) => words.byteLength,
});

/** The stored messages that were not marked as seen; null where no message is, since nothing is known of that then. */
export function unreadMessages(store: Store, audit: Audit): Bitmap | null {
  const key = mailKey(audit);
  const before = known.get(key);
  const found = before ?? Bitmap.of(audit.messageCount, numbersOf(store, audit));
  if (!before) known.set(key, found);
  return found.count() === audit.storedCount ? null : found;
}

const numbersOf = (store: Store, audit: Audit): number[] =>
  store
    .select({ number: messages.number })
    .from(messages)
    .where(and(counted(audit), sql`${messages.flags} not like '%"\\\\seen"%'`))
    .all()
    .map(({ number }) => number);
