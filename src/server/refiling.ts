import { and, eq, inArray, lt, sql } from 'drizzle-orm';
import { Bitmap } from '../core/flow/bitmap';
import type { Flow } from '../core/flow/flow';
import { type Audit, getAudit } from './audits';
import type { Store } from './database/open';
import { messages } from './database/schema';
import { getFlow } from './simulation';

/** What would become of stored mail if the chain were applied to it. */
export interface RefilePlan {
  readonly total: number;
  /** Messages that stay where they lie. */
  readonly staying: number;
  /** The user's own, which no rule for incoming mail concerns. */
  readonly sent: number;
  readonly moves: readonly RefileMove[];
}

export interface RefileMove {
  readonly from: string;
  /** Where to; a message may go to several. Empty where it would lie nowhere: it was dropped, refused, or sent on only. */
  readonly to: readonly string[];
  readonly count: number;
}

/** Where each message goes: to folders, of which there may be none; null for the user's own mail, which stays. */
export function* placesOf(
  store: Store,
  audit: Audit,
  flow: Flow,
): Generator<{ number: number; from: string; to: readonly string[] | null }> {
  const counted = and(eq(messages.auditId, audit.id), lt(messages.number, audit.messageCount));
  const own = inArray(sql`lower(${messages.fromAddress})`, [...audit.ownAddresses]);
  const sent = store.select({ number: messages.number }).from(messages).where(and(counted, own)).values() as [number][];
  const isSent = Bitmap.of(
    audit.messageCount,
    sent.map(([number]) => number),
  );
  const rows = store
    .select({ number: messages.number, folder: messages.folder })
    .from(messages)
    .where(counted)
    .values() as [number, string][];
  const folders = [...flow.fates.folders].map(([name, { messages: held }]) => ({ name, held }));
  // Most messages go to few sets of folders: each set is one and the same list.
  const sets = new Map<string, readonly string[]>();
  for (const [number, from] of rows) {
    if (isSent.has(number)) {
      yield { number, from, to: null };
      continue;
    }
    let key = '';
    for (let at = 0; at < folders.length; at++) if (folders[at]?.held.has(number)) key += `${at} `;
    let to = sets.get(key);
    if (!to) {
      to = folders.filter(({ held }) => held.has(number)).map(({ name }) => name);
      sets.set(key, to);
    }
    yield { number, from, to };
  }
}

export function refilePlan(store: Store, auditId: string): RefilePlan {
  const audit = getAudit(store, auditId);
  const moves = new Map<readonly string[], Map<string, number>>();
  let [staying, sent] = [0, 0];
  for (const { from, to } of placesOf(store, audit, getFlow(store, audit))) {
    if (to === null) sent++;
    else if (to.length === 1 && to[0] === from) staying++;
    else {
      const counts = moves.get(to) ?? new Map<string, number>();
      moves.set(to, counts.set(from, (counts.get(from) ?? 0) + 1));
    }
  }
  const listed = [...moves].flatMap(([to, counts]) => Array.from(counts, ([from, count]) => ({ from, to, count })));
  return { total: audit.messageCount, staying, sent, moves: listed.sort((a, b) => b.count - a.count) };
}

/** The messages of one move of the plan. */
export function movedMessages(store: Store, audit: Audit, flow: Flow, from: string, to: readonly string[]): number[] {
  const wanted = JSON.stringify(to);
  const numbers: number[] = [];
  for (const place of placesOf(store, audit, flow)) {
    if (place.from === from && place.to !== null && JSON.stringify(place.to) === wanted) numbers.push(place.number);
  }
  return numbers;
}
