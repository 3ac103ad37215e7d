import { and, inArray, sql } from 'drizzle-orm';
import { Bitmap } from '../../core/flow/bitmap';
import type { Audit } from '../audits/audits';
import { mailKey, trafficKey } from '../cache/keys';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { counted, maybePresent, messageNumbersWith } from './message-numbers';

const recentTraffic = new Region<{ readonly traffic: Bitmap | null }>({
  name: 'messages that take part',
  most: 16 * 1024 * 1024,
  weigh: ({ traffic }) => traffic?.octets ?? 1,
});

/** The messages that run through chains: all present ones except sent mail; null for every number. */
export function maybeTraffic(store: Store, audit: Audit): Bitmap | null {
  const name = trafficKey(audit);
  const known = recentTraffic.get(name);
  if (known) return known.traffic;
  const sent = audit.withSent ? [] : sentMessages(store, audit);
  const present = maybePresent(store, audit);
  const incoming = sent.length === 0 ? null : Bitmap.of(audit.messageCount, sent).not();
  const traffic = present && incoming ? present.and(incoming) : (present ?? incoming);
  recentTraffic.set(name, { traffic });
  return traffic;
}

/** The number of messages that run through chains: the whole that counts are part of. */
export const trafficSize = (store: Store, audit: Audit): number =>
  maybeTraffic(store, audit)?.count() ?? audit.messageCount;

/** Whether a message takes no part because the user sent it. */
export const isLeftOut = (store: Store, audit: Audit, number: number): boolean =>
  maybeTraffic(store, audit)?.has(number) === false;

/** The numbers of sent messages. */
export function sentMessages(store: Store, audit: Audit): number[] {
  const author = inArray(sql`lower(${messages.fromAddress})`, [...audit.ownAddresses]);
  const rows = store
    .select({ number: messages.number })
    .from(messages)
    .where(and(counted(audit), messages.outgoing, author));
  return rows.all().map(({ number }) => number);
}

/** Flags never change once a message is stored. */
const known = new Region<Bitmap>({
  name: 'unread messages',
  most: 64 * 1024 * 1024,
  weigh: ({ octets }) => octets,
});

const UNSEEN = sql`${messages.flags} not like '%"\\\\seen"%'`;

/** Stored messages not marked as seen; null if none is marked, since nothing is known then. */
export function unreadMessages(store: Store, audit: Audit): Bitmap | null {
  const key = mailKey(audit);
  const before = known.get(key);
  const found = before ?? Bitmap.of(audit.messageCount, messageNumbersWith(store, audit, UNSEEN)).compact();
  if (!before) known.set(key, found);
  return found.count() === audit.storedCount ? null : found;
}
