import { and, eq, sql } from 'drizzle-orm';
import { atOnce } from '../../core/audit/stepwise';
import { conversationsOf, identifiersIn, type Ties } from '../../core/mail/conversations';
import { type Correspondent, PeopleCounter } from '../../core/mail/people';
import { elementAt, ownJson } from '../../core/text/lookup';
import { deflated, inflated } from '../../files/packing';
import type { Audit } from '../audits/audits';
import { mailKey, ownerKey } from '../cache/keys';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { knowledge, messages } from '../database/schema';
import { StoredColumns } from './columns';
import { counted } from './message-numbers';
import { recipientsOf } from './recipients';

/** Data about the mail as a whole. */
interface Topics {
  readonly people: readonly Correspondent[];
  /** For each message the number of the first message of its conversation. */
  readonly conversations: readonly number[];
}

const recent = new Region<Topics[keyof Topics]>({
  name: 'correspondents and conversations',
  most: 256 * 1024 * 1024,
  weigh: ({ length }) => 200 * length,
  entries: 8,
});

/** The data over all messages, or null if not computed yet. */
export function maybeKnown<T extends keyof Topics>(store: Store, audit: Audit, topic: T): Topics[T] | null {
  const name = nameOf(audit, topic);
  const held = recent.get(name);
  // The name is the topic.
  if (held) return held as Topics[T];
  const row = store
    .select()
    .from(knowledge)
    .where(and(eq(knowledge.auditId, audit.id), eq(knowledge.topic, topic)))
    .get();
  if (row?.count !== audit.messageCount) return null;
  const read = ownJson<{ own: string; edition?: string; known: Topics[T] }>(inflated(row.data).toString());
  if (read.own !== ownerKey(audit) || read.edition !== audit.edition) return null;
  recent.set(name, read.known);
  return read.known;
}

const nameOf = (audit: Audit, topic: string): string =>
  `${mailKey(audit)} ${topic} ${topic === 'people' ? ownerKey(audit) : ''}`;

/** Computes and stores missing data. `checkpoint` may throw to cancel. */
export function workOutKnowledge(store: Store, audit: Audit, checkpoint: () => void): void {
  if (!maybeKnown(store, audit, 'people')) {
    const people = peopleOf(store, audit, checkpoint);
    checkpoint();
    keep(store, audit, 'people', people);
    checkpoint();
  }
  if (!maybeKnown(store, audit, 'conversations')) {
    keep(store, audit, 'conversations', Array.from(conversationsOf(tiesOf(store, audit, checkpoint), checkpoint)));
  }
}

function keep<T extends keyof Topics>(store: Store, audit: Audit, topic: T, known: Topics[T]): void {
  const data = deflated(JSON.stringify({ own: ownerKey(audit), edition: audit.edition, known }), { level: 1 });
  const row = { auditId: audit.id, topic, count: audit.messageCount, data };
  store
    .insert(knowledge)
    .values(row)
    .onConflictDoUpdate({ target: [knowledge.auditId, knowledge.topic], set: row })
    .run();
  recent.set(nameOf(audit, topic), known);
}

function peopleOf(store: Store, audit: Audit, checkpoint: () => void): Correspondent[] {
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  const recipients = (['to', 'cc', 'bcc'] as const).map((field) => {
    return atOnce(recipientsOf(columns, field, null), checkpoint);
  });
  const own = new Set(audit.ownAddresses);
  const people = new PeopleCounter(audit.ownAddresses);
  for (let first = 0; first < audit.messageCount; first += CHECKED) {
    checkpoint();
    for (const [number, from, fromName, date] of sendersFrom(store, audit, first)) {
      // Whom others write to is not looked at.
      const to = own.has(from.toLowerCase()) ? recipients.flatMap((field) => field.of(number)) : [];
      people.add({ from, fromName, date, to });
    }
  }
  return people.list();
}

type Sender = readonly [number: number, from: string, fromName: string, date: number | null];

/** As one text, since binding a row for each message takes several times as long. */
function sendersFrom(store: Store, audit: Audit, first: number): readonly Sender[] {
  const { number, fromAddress, fromName, date } = messages;
  const row = store
    .select({ rows: sql<string>`json_group_array(json_array(${number}, ${fromAddress}, ${fromName}, ${date}))` })
    .from(messages)
    .where(counted(audit, first, first + CHECKED))
    .get();
  return row ? ownJson<Sender[]>(row.rows).sort(([a], [b]) => a - b) : [];
}

/** Messages read between two checkpoints. */
const CHECKED = 512;

const NONE: readonly string[] = [];

function tiesOf(store: Store, audit: Audit, checkpoint: () => void): Ties[] {
  const ids = identifiersOf(store, audit, ['message-id'], checkpoint);
  const references = identifiersOf(store, audit, ['references', 'in-reply-to'], checkpoint);
  return ids.map(([messageId = null], number) => ({ messageId, references: references[number] ?? NONE }));
}

/** The identifiers in some fields of each message. */
function identifiersOf(store: Store, audit: Audit, fields: readonly string[], checkpoint: () => void) {
  const found: (readonly string[])[] = Array(audit.messageCount).fill(NONE);
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  for (const field of fields) {
    for (const { terms, messages: numbers, places } of columns.piecesByValue(`header:${field}`)) {
      checkpoint();
      const identifiers = terms.map(identifiersIn);
      for (const [at, number] of numbers.entries()) {
        const own = elementAt(identifiers, elementAt(places, at));
        const before = elementAt(found, number);
        found[number] = before.length === 0 ? own : [...before, ...own];
      }
    }
  }
  return found;
}
