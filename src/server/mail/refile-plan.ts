import { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import { elementAt } from '../../core/text/lookup';
import { type Audit, getAudit } from '../audits/audits';
import { getFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { messageNumbersBy } from './message-numbers';
import { sentMessages } from './traffic';

/** The effect of applying the chain to stored mail. */
export interface RefilePlan {
  readonly total: number;
  /** Messages that stay where they are. */
  readonly staying: number;
  /** Sent mail, to which no rule applies. */
  readonly sent: number;
  readonly moves: readonly RefileMove[];
}

export interface RefileMove {
  readonly from: string;
  /**
   * The folders it would be in; a message may be in several. Empty if it would be in none: discarded, rejected, or only
   * redirected.
   */
  readonly to: readonly string[];
  readonly count: number;
}

/** The folders of each message; null for sent mail, which stays. */
export function* placesOf(
  store: Store,
  audit: Audit,
  flow: Flow,
): Generator<{ number: number; from: string; to: readonly string[] | null }> {
  const isSent = Bitmap.of(audit.messageCount, sentMessages(store, audit));
  const folders: (string | undefined)[] = new Array(audit.messageCount);
  for (const [folder, numbers] of messageNumbersBy(store, audit, messages.folder)) {
    for (const number of numbers) folders[number] = folder;
  }
  const { lists, listOf } = folderLists(flow);
  for (const [number, from] of folders.entries()) {
    if (from === undefined) continue;
    yield { number, from, to: isSent.has(number) ? null : elementAt(lists, elementAt(listOf, number)) };
  }
}

/**
 * The lists of folders into which messages are delivered, and the list of each message. Few lists occur, so each is
 * created once.
 */
function folderLists({ fates, count }: Flow): { lists: readonly (readonly string[])[]; listOf: Uint32Array } {
  const lists: (readonly string[])[] = [[]];
  const listOf = new Uint32Array(count);
  for (const [folder, { messages: held }] of fates.folders) {
    // The list that results from adding this folder to each list.
    const longer = new Map<number, number>();
    for (const number of held.members()) {
      const before = elementAt(listOf, number);
      const known = longer.get(before) ?? lists.push([...elementAt(lists, before), folder]) - 1;
      longer.set(before, known);
      listOf[number] = known;
    }
  }
  return { lists, listOf };
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
  return { total: audit.storedCount, staying, sent, moves: listed.sort((a, b) => b.count - a.count) };
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
