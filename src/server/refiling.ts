import { and, asc, eq, lt } from 'drizzle-orm';
import type { Flow } from '../core/flow/flow';
import { type Audit, getAudit, Refusal } from './audits';
import type { Store } from './database/open';
import { messages } from './database/schema';
import { maybeFlow } from './simulation';

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
): Generator<{ number: number; from: string; flags: string; to: readonly string[] | null }> {
  const own = new Set(audit.ownAddresses);
  const rows = store
    .select({
      number: messages.number,
      folder: messages.folder,
      sender: messages.fromAddress,
      flags: messages.flags,
    })
    .from(messages)
    .where(and(eq(messages.auditId, audit.id), lt(messages.number, audit.messageCount)))
    .orderBy(asc(messages.number))
    .all();
  const folders = [...flow.fates.folders].map(([name, { messages: held }]) => ({ name, held }));
  for (const { number, folder, sender, flags } of rows) {
    const there = folders.filter(({ held }) => held.has(number)).map(({ name }) => name);
    yield { number, from: folder, flags, to: own.has(sender.toLowerCase()) ? null : there };
  }
}

export function refilePlan(store: Store, auditId: string): RefilePlan {
  const audit = getAudit(store, auditId);
  const moves = new Map<string, { from: string; to: readonly string[]; count: number }>();
  let [staying, sent] = [0, 0];
  for (const { from, to } of placesOf(store, audit, simulated(store, audit))) {
    if (to === null) sent++;
    else if (to.length === 1 && to[0] === from) staying++;
    else {
      const key = JSON.stringify([from, to]);
      const move = moves.get(key) ?? { from, to, count: 0 };
      move.count++;
      moves.set(key, move);
    }
  }
  return { total: audit.messageCount, staying, sent, moves: [...moves.values()].sort((a, b) => b.count - a.count) };
}

/** The flow of the draft; throws a refusal while it is not known. */
export function simulated(store: Store, audit: Audit): Flow {
  const flow = maybeFlow(store, audit, audit.draft);
  if (!flow) throw new Refusal('The chain is still being simulated.', 409);
  return flow;
}

/** The messages of one move of the plan. */
export function movedMessages(store: Store, audit: Audit, flow: Flow, from: string, to: readonly string[]): number[] {
  const wanted = JSON.stringify([from, to]);
  const numbers: number[] = [];
  for (const place of placesOf(store, audit, flow)) {
    if (place.to !== null && JSON.stringify([place.from, place.to]) === wanted) numbers.push(place.number);
  }
  return numbers;
}
