import { inRunOf } from '../rules/edit';
import type { ChainEntry } from '../rules/rule';
import type { AuditContext, RuleFlow } from './context';

/** An earlier entry that kept mail from a rule, with the number of stored messages. */
export interface Taker {
  readonly entry: ChainEntry;
  readonly place: number;
  readonly count: number;
}

/** The earlier entries that really kept stored mail from a rule that matches it, those of most messages first. */
export function takersOf({ chain, stored }: AuditContext, { place, held, reached }: RuleFlow): Taker[] {
  let left = held.without(reached);
  const takers: Taker[] = [];
  for (const [at, flow] of stored.flow.entries.slice(0, place).entries()) {
    if (left.isEmpty()) break;
    // An entry of the same run claims what it acts on.
    const taken = left.and(inRunOf(chain.entries, at, place) ? flow.fired.or(flow.stopped) : flow.stopped);
    if (taken.isEmpty()) continue;
    takers.push({ entry: flow.entry, place: at, count: taken.count() });
    left = left.without(taken);
  }
  return takers.sort((a, b) => b.count - a.count);
}
