import { and, eq } from 'drizzle-orm';
import { writeMboxEntry } from '../core/mail/mbox';
import { getAudit, Refusal } from './audits';
import type { Store } from './database/open';
import { messages } from './database/schema';
import { maybeRaw } from './raw';
import type { MessageQuery } from './shapes';
import { maybeFlow } from './simulation';
import { messagesOf } from './views/mail';

/** One stored message, byte for byte as it was brought in. */
export function messageOctets(store: Store, auditId: string, number: number): Buffer {
  const audit = getAudit(store, auditId);
  const raw = number < audit.messageCount ? maybeRaw(store, auditId, number) : null;
  if (!raw) throw new Refusal('There is no such message.', 404);
  return raw;
}

/**
 * The messages that meet a query as an mbox (RFC 4155, quoted the reversible way), in the order in which they were brought
 * in, one at a time. Throws a refusal at once where the query cannot be answered.
 */
export function messagesAsMbox(
  store: Store,
  auditId: string,
  query: MessageQuery,
): Generator<Uint8Array, void, undefined> {
  const audit = getAudit(store, auditId);
  const wanted = messagesOf(store, audit, maybeFlow(store, audit, audit.draft), query);
  const numbers = wanted ? wanted.members() : Array(audit.messageCount).keys();
  return mboxEntries(store, auditId, numbers);
}

function* mboxEntries(
  store: Store,
  auditId: string,
  numbers: Iterable<number>,
): Generator<Uint8Array, void, undefined> {
  for (const number of numbers) {
    const row = store
      .select({ fromLine: messages.fromLine, date: messages.date })
      .from(messages)
      .where(and(eq(messages.auditId, auditId), eq(messages.number, number)))
      .get();
    const raw = maybeRaw(store, auditId, number);
    if (row && raw) yield writeMboxEntry({ fromLine: row.fromLine ?? separator(row.date ?? 0), raw });
  }
}

/** A separator line for a message that came without one; its date is written as asctime does, in UTC. */
function separator(time: number): string {
  const date = new Date(time);
  const [weekday, day, month, year] = date.toUTCString().replace(',', '').split(' ') as [
    string,
    string,
    string,
    string,
  ];
  const clock = date.toISOString().slice(11, 19);
  return `From unknown ${weekday} ${month} ${String(Number(day)).padStart(2)} ${clock} ${year}`;
}
