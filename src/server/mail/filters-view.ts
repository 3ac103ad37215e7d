import { and, asc, count, desc, isNotNull, sql } from 'drizzle-orm';
import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { counted } from './message-numbers';

/** The choices of the filters of the message list. */
export interface Offers {
  readonly folders: readonly string[];
  /** Mailing lists, largest first. */
  readonly lists: readonly { readonly id: string; readonly count: number }[];
  /** The user's own addresses. */
  readonly accounts: readonly string[];
}

const MOST_LISTS = 500;

export function offersOf(store: Store, auditId: string): Offers {
  const audit = getAudit(store, auditId);
  const folders = store
    .selectDistinct({ folder: messages.folder })
    .from(messages)
    .where(counted(audit))
    .orderBy(asc(messages.folder))
    .all();
  // A header field may put messages in more places than the one by which they are listed.
  const places =
    audit.placeField === null
      ? []
      : store.all<{ readonly place: string }>(
          sql`select distinct value as place from ${messages}, json_each(${messages.places}) where ${counted(audit)}`,
        );
  const lists = store
    .select({ id: messages.listId, count: count() })
    .from(messages)
    .where(and(counted(audit), isNotNull(messages.listId)))
    .groupBy(messages.listId)
    .orderBy(desc(count()), asc(messages.listId))
    .limit(MOST_LISTS)
    .all();
  return {
    folders: [...new Set([...folders.map(({ folder }) => folder), ...places.map(({ place }) => place)])].sort(),
    lists: lists.flatMap(({ id, count: held }) => (id === null ? [] : [{ id, count: held }])),
    accounts: audit.ownAddresses,
  };
}
