import { and, eq, gt, gte, inArray, isNull, like, lt, ne, or, type SQL, sql } from 'drizzle-orm';
import type { AnySQLiteColumn } from 'drizzle-orm/sqlite-core';
import { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import { askingChain } from '../../core/repair/expectations';
import type { TestTree } from '../../core/rules/rule';
import { INBOX } from '../../core/sieve/interpret/fate';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { mailKey } from '../cache/keys';
import { Region } from '../cache/region';
import { DROPPED, type FateView, fateView, REFUSED } from '../chain/destinations';
import { flowAtOnce, getFlow, maybeFlow } from '../chain/simulation';
import { anyOf, firedOften } from '../changes/compare-destinations';
import { messagesOfExpectation } from '../changes/expectations';
import { comparedMessages } from '../changes/moved-messages';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { maybeStatedFindings } from '../findings/for-target';
import type { Oddity } from '../gather/oddities';
import { sourceFiles } from '../gather/view';
import type { MessageQuery } from '../http/shapes';
import { getPlan } from '../plan/kept';
import { saidOf } from '../plan/said';
import { maybeKnown } from './knowledge';
import { maybePresent, messageNumbersByDate } from './message-numbers';
import { refiledMessages } from './refile-plan';
import { sentMessages } from './traffic';
import { unsubscribable } from './unsubscribing';
import { messagesWithWords } from './word-index';

export interface MessageRow {
  readonly number: number;
  readonly subject: string;
  readonly from: string;
  readonly fromAddress: string;
  readonly date: number | null;
  /** Its folder. */
  readonly folder: string;
  readonly unseen: boolean;
  /** Its destination under the draft; null while unknown, and for mail that takes no part. */
  readonly fate: FateView | null;
  /** Whether it takes no part because the user sent it. */
  readonly sent: boolean;
  /** Names of the rules that act. */
  readonly fired: readonly string[];
  readonly oddities: readonly Oddity[];
}

export interface MessagePage {
  /** Messages that match the query, and all stored ones. */
  readonly found: number;
  readonly total: number;
  readonly offset: number;
  readonly rows: readonly MessageRow[];
}

/** One page of the messages that match a query, newest first; those without a date last. */
export function messagePage(store: Store, auditId: string, query: MessageQuery): MessagePage {
  const audit = getAudit(store, auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  const wanted = messagesOf(store, audit, query);
  const { order } = newestFirst(store, audit);
  const numbers = wanted ? order.filter((number) => wanted.has(number)) : order;
  const page = Array.from(numbers.slice(query.offset, query.offset + query.limit));
  return {
    found: numbers.length,
    total: audit.storedCount,
    offset: query.offset,
    rows: messageRows(store, audit, flow, page),
  };
}

/** The rows of given messages, in the order of `numbers`. */
export function messageRows(store: Store, audit: Audit, flow: Flow | null, numbers: readonly number[]): MessageRow[] {
  if (numbers.length === 0) return [];
  const rows = store
    .select()
    .from(messages)
    .where(and(eq(messages.auditId, audit.id), inArray(messages.number, [...numbers])))
    .all();
  const byNumber = new Map(rows.map((row) => [row.number, row]));
  return numbers.flatMap((number) => {
    const row = byNumber.get(number);
    if (!row) return [];
    return [
      {
        number,
        subject: row.subject,
        from: row.fromName,
        fromAddress: row.fromAddress,
        date: row.date,
        folder: row.folder,
        unseen: !row.flags.includes('\\seen'),
        fate: flow?.fates.traffic.has(number) ? fateView(flow.fates.fateOf(number)) : null,
        sent: flow !== null && !flow.fates.traffic.has(number),
        fired: flow?.entries.filter(({ fired }) => fired.has(number)).map(({ entry }) => entry.name) ?? [],
        oddities: row.oddities,
      },
    ];
  });
}

/** The messages a query selects; null for all. Throws a refusal if the query needs a simulation. */
export function messagesOf(store: Store, audit: Audit, query: MessageQuery): Bitmap | null {
  const sets: Bitmap[] = [];
  const simulated = () => getFlow(store, audit);
  if (query.rule) {
    const entry = simulated().entries.find((candidate) => candidate.entry.id === query.rule);
    if (!entry) throw new Refusal('There is no such rule.', 404);
    sets.push(entry[query.part]);
  }
  if (query.fate) sets.push(endingAt(simulated(), query.fate));
  if (query.finding) {
    const finding = maybeStatedFindings(store, audit)?.find(({ key }) => key === query.finding);
    sets.push(Bitmap.of(audit.messageCount, finding?.messages ?? []));
  }
  sets.push(...comparedMessages(store, audit, query));
  if (query.tests) sets.push(holdingFor(store, audit, query.tests));
  for (const [id, part] of [[query.breaks, 'broken'] as const, [query.about, 'about'] as const]) {
    if (id !== undefined) sets.push(messagesOfExpectation(store, audit, id, simulated())[part]);
  }
  if (query.step !== undefined) {
    const step = getPlan(store, audit, saidOf(store, audit.id)).steps.find(({ key }) => key === query.step);
    sets.push(Bitmap.of(audit.messageCount, step?.[query.says ?? 'agreeing'] ?? []));
  }
  if (query.untouched) sets.push(simulated().fates.traffic.without(anyOf(simulated(), 'fired')));
  if (query.sent) sets.push(within(audit, sentMessages(store, audit)));
  if (query.passing) sets.push(PASSING[query.passing](simulated()));
  if (query.search) {
    const numbers = messagesWithWords(store, audit.ordinal, query.search);
    sets.push(within(audit, numbers));
  }
  if (query.head) sets.push(within(audit, messagesWithWords(store, audit.ordinal, query.head, 'head')));
  if (query.unsubscribe) sets.push(unsubscribable(store, audit, query.unsubscribe));
  if (query.refiled) sets.push(refiledMessages(store, audit, query.refiled));
  if (query.conversation !== undefined) sets.push(ofConversation(store, audit, query.conversation));
  if (query.source && query.file !== undefined) sets.push(ofFile(store, audit, query.source, query.file));
  const conditions = conditionsOf(query);
  if (conditions.length > 0) sets.push(meeting(store, audit, conditions));
  const present = maybePresent(store, audit);
  if (present) sets.push(present);
  return sets.length === 0 ? null : sets.reduce((sum, set) => sum.and(set));
}

/** Messages that match tests alone, independent of rules. */
function holdingFor(store: Store, audit: Audit, tests: TestTree): Bitmap {
  const held = flowAtOnce(store, audit, askingChain([{ tests }]))?.entries[0]?.held;
  if (!held) throw new Refusal('These tests take too long for a page. Use fewer tests.', 422);
  return held;
}

const PASSING: Readonly<Record<NonNullable<MessageQuery['passing']>, (flow: Flow) => Bitmap>> = {
  foot: (flow) => flow.fates.traffic.without(anyOf(flow, 'stopped')),
  implicit: ({ fates }) => fates.implicitKeep,
  often: firedOften,
  once: (flow) => anyOf(flow, 'fired').without(firedOften(flow)),
};

function ofConversation(store: Store, audit: Audit, number: number): Bitmap {
  const roots = maybeKnown(store, audit, 'conversations');
  if (!roots) throw new Refusal('Conversations are being found. Try again in a moment.', 409);
  const members = roots.flatMap((root, at) => (root === roots[number] ? [at] : []));
  return Bitmap.of(audit.messageCount, members);
}

function ofFile(store: Store, audit: Audit, source: string, file: number): Bitmap {
  const line = sourceFiles(store, audit.id, source)[file];
  if (!line) throw new Refusal('There is no such file.', 404);
  const bitmap = new Bitmap(audit.messageCount);
  for (const [from, to] of line.ranges) for (let number = from; number < to; number++) bitmap.add(number);
  return bitmap;
}

const DAY = 24 * 60 * 60 * 1000;

/** The conditions of a query on the rows of messages. */
function conditionsOf(query: MessageQuery): SQL[] {
  const conditions: (SQL | undefined)[] = [
    query.from && or(contains(messages.fromName, query.from), contains(messages.fromAddress, query.from)),
    query.subject && contains(messages.subject, query.subject),
    query.person && or(eq(sql`lower(${messages.fromAddress})`, query.person), names(query.person)),
    query.folder &&
      or(
        eq(messages.folder, query.folder),
        sql`exists (select 1 from json_each(${messages.places}) where value = ${query.folder})`,
      ),
    query.source && eq(messages.sourceId, query.source),
    query.list && eq(messages.listId, query.list),
    query.account &&
      or(eq(messages.deliveredTo, query.account), and(isNull(messages.deliveredTo), names(query.account))),
    query.since && gte(messages.date, Date.parse(query.since)),
    query.until && lt(messages.date, Date.parse(query.until) + DAY),
    query.unseen && sql`${messages.flags} not like '%"\\\\seen"%'`,
    query.attached && gt(messages.attachments, 0),
    query.oddities && ne(messages.oddities, []),
  ].map((condition) => condition || undefined);
  return conditions.filter((condition) => condition !== undefined);
}

/** The user's % and _ are literal. */
function contains(column: AnySQLiteColumn, words: string): SQL {
  return sql`${like(column, `%${words.replace(/[\\%_]/g, '\\$&')}%`)} escape '\\'`;
}

/** Whether an address, in lower case, is one of the recipients of a message. */
const names = (address: string): SQL =>
  sql`instr(', ' || lower(${messages.toAddresses}) || ',', ${`, ${address},`}) > 0`;

function meeting(store: Store, audit: Audit, conditions: readonly SQL[]): Bitmap {
  const rows = store
    .select({ number: messages.number })
    .from(messages)
    .where(and(eq(messages.auditId, audit.id), ...conditions))
    .values();
  return within(
    audit,
    rows.map(([number]) => Number(number)),
  );
}

export function endingAt({ fates, count }: Flow, key: string): Bitmap {
  if (key === DROPPED) return fates.dropped();
  if (key === REFUSED) return fates.rejected;
  if (key === 'inbox') return fates.folders.get(INBOX)?.messages ?? new Bitmap(count);
  if (key.startsWith('folder:')) return fates.folders.get(key.slice('folder:'.length))?.messages ?? new Bitmap(count);
  return fates.redirects.get(key.slice('redirect:'.length)) ?? new Bitmap(count);
}

/** A set of messages; rows of a running import are beyond the audit's count. */
export function within(audit: Audit, numbers: readonly number[]): Bitmap {
  return Bitmap.of(
    audit.messageCount,
    numbers.filter((number) => number < audit.messageCount),
  );
}

/** The newest of some messages, at most `limit` of them. */
export function newest(store: Store, audit: Audit, some: Bitmap, limit: number): number[] {
  const { order, placeOf } = newestFirst(store, audit);
  if (some.count() > order.length / MANY) {
    const found: number[] = [];
    for (let at = 0; at < order.length && found.length < limit; at++) {
      const number = order[at] ?? 0;
      if (some.has(number)) found.push(number);
    }
    return found;
  }
  const places = [...some.members()].map((number) => placeOf[number] ?? NOWHERE).filter((place) => place !== NOWHERE);
  return places
    .sort((a, b) => a - b)
    .slice(0, limit)
    .map((place) => order[place] ?? 0);
}

/** If some messages are more than this part of all, the newest of them are soon found among all. */
const MANY = 16;

/** All present messages, newest first, and for each number its place among them. */
interface Order {
  readonly order: Uint32Array;
  readonly placeOf: Uint32Array;
}

const NOWHERE = 0xffffffff;

const orders = new Region<Order>({
  name: 'orders by date',
  most: 64 * 1024 * 1024,
  weigh: ({ order, placeOf }) => order.byteLength + placeOf.byteLength,
});

function newestFirst(store: Store, audit: Audit): Order {
  const name = mailKey(audit);
  const known = orders.get(name);
  if (known) return known;
  const order = messageNumbersByDate(store, audit);
  const placeOf = new Uint32Array(audit.messageCount).fill(NOWHERE);
  order.forEach((number, place) => {
    placeOf[number] = place;
  });
  orders.set(name, { order, placeOf });
  return { order, placeOf };
}
