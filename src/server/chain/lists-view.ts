import { and, eq, inArray } from 'drizzle-orm';
import { usersOf } from '../../core/rules/lists';
import type { NamedList } from '../../core/rules/rule';
import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { messages } from '../database/schema';

export interface ListsView {
  readonly lists: readonly ListLine[];
  /** Sender addresses of the selected messages, in lower case, to be added to a list. */
  readonly senders: readonly string[];
}

export interface ListLine extends NamedList {
  readonly usedBy: readonly { readonly id: string; readonly name: string }[];
}

export function listsView(store: Store, auditId: string, numbers: readonly number[]): ListsView {
  const { draft } = getAudit(store, auditId);
  const rows =
    numbers.length === 0
      ? []
      : store
          .select({ address: messages.fromAddress })
          .from(messages)
          .where(and(eq(messages.auditId, auditId), inArray(messages.number, [...numbers])))
          .all();
  return {
    lists: (draft.lists ?? []).map((list) => ({
      ...list,
      usedBy: usersOf(draft, list.id).map(({ id, name }) => ({ id, name })),
    })),
    senders: [...new Set(rows.map(({ address }) => address.toLowerCase()))].filter((address) => address !== ''),
  };
}
