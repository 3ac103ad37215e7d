import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { and, asc, eq, gte, lt } from 'drizzle-orm';
import { atOnce, type Steps } from '../../core/audit/stepwise';
import { unpackAddress } from '../../core/flow/columns';
import { conversationsOf, identifiersIn, type Ties } from '../../core/mail/conversations';
import { type Correspondent, PeopleCounter } from '../../core/mail/people';
import { ownJson } from '../../core/text/lookup';
import type { Audit } from '../audits/audits';
import { mailKey, ownerKey } from '../cache/keys';
import { Region } from '../cache/region';
import type { Store } from '../database/open';
import { knowledge, messages } from '../database/schema';
import { StoredColumns } from './columns';
import { counted } from './message-numbers';

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
  const read = ownJson<{ own: string; edition?: string; known: Topics[T] }>(inflateRawSync(row.data).toString());
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
  const data = deflateRawSync(JSON.stringify({ own: ownerKey(audit), edition: audit.edition, known }), { level: 1 });
  const row = { auditId: audit.id, topic, count: audit.messageCount, data };
  store
    .insert(knowledge)
    .values(row)
    .onConflictDoUpdate({ target: [knowledge.auditId, knowledge.topic], set: row })
    .run();
  recent.set(nameOf(audit, topic), known);
}

type AddressField = 'to' | 'cc' | 'bcc';

/** For each message the addresses in some of its fields, as written, in short steps. */
export function* recipientsInSteps(store: Store, audit: Audit, fields: readonly AddressField[]): Steps<string[][]> {
  const recipients: string[][] = [];
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  for (const field of fields) {
    for (const { messages: numbers, values } of columns.pieces(`address:${field}`)) {
      numbers.forEach((number, at) => {
        const to = (values[at] ?? []).map(unpackAddress);
        const written = to.map(({ local, domain }) => (domain === null ? local : `${local}@${domain}`));
        recipients[number] = [...(recipients[number] ?? []), ...written];
      });
      yield;
    }
  }
  return recipients;
}

function peopleOf(store: Store, audit: Audit, checkpoint: () => void): Correspondent[] {
  const recipients = atOnce(recipientsInSteps(store, audit, ['to', 'cc', 'bcc']), checkpoint);
  const people = new PeopleCounter(audit.ownAddresses);
  for (let first = 0; first < audit.messageCount; first += CHECKED) {
    checkpoint();
    const rows = store
      .select({
        number: messages.number,
        from: messages.fromAddress,
        fromName: messages.fromName,
        date: messages.date,
      })
      .from(messages)
      .where(and(counted(audit), gte(messages.number, first), lt(messages.number, first + CHECKED)))
      .orderBy(asc(messages.number))
      .all();
    for (const { number, from, fromName, date } of rows)
      people.add({ from, fromName, date, to: recipients[number] ?? [] });
  }
  return people.list();
}

/** Messages read between two checkpoints. */
const CHECKED = 512;

function tiesOf(store: Store, audit: Audit, checkpoint: () => void): Ties[] {
  const ids: string[] = [];
  const references: string[][] = [];
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  let visited = 0;
  const checked = () => visited++ % CHECKED === 0 && checkpoint();
  columns.scan('header:message-id', (number, [value]) => {
    checked();
    const id = identifiersIn(value ?? '')[0];
    if (id !== undefined) ids[number] = id;
  });
  for (const field of ['references', 'in-reply-to'] as const) {
    columns.scan(`header:${field}`, (number, values) => {
      checked();
      references[number] = [...(references[number] ?? []), ...values.flatMap(identifiersIn)];
    });
  }
  return Array.from({ length: audit.messageCount }, (_, number) => {
    return { messageId: ids[number] ?? null, references: references[number] ?? [] };
  });
}
