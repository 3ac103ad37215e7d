import type { Flow } from '../../core/flow/flow';
import type { Audit } from '../audits/audits';
import { fateLine, fateView } from '../chain/destinations';
import type { Store } from '../database/open';
import { type MessageRow, messageRows, newest } from '../mail/list-view';
import { trafficSize } from '../mail/traffic';
import { movesBetween } from './compare-destinations';

/** Destinations before and after, of the messages whose fate differs. */
export interface Comparison {
  readonly changed: number;
  readonly total: number;
  /** Pairs of destinations, largest first. */
  readonly moves: readonly { readonly from: string; readonly to: string; readonly count: number }[];
  /** The newest changed messages, at most `SHOWN_CHANGED`. */
  readonly rows: readonly (MessageRow & { readonly before: string; readonly after: string })[];
}

const SHOWN_CHANGED = 200;

export function compareFlows(
  store: Store,
  audit: Audit,
  before: Flow,
  after: Flow,
  among = after.fates.differsFrom(before.fates),
): Comparison {
  const numbers = [...among.members()];
  const shown = newest(store, audit, among, SHOWN_CHANGED);
  return {
    changed: numbers.length,
    total: trafficSize(store, audit),
    moves: movesBetween(before, after, numbers, fateLine),
    rows: messageRows(store, audit, after, shown).map((row) => ({
      ...row,
      before: fateLine(fateView(before.fates.fateOf(row.number))),
      after: fateLine(fateView(after.fates.fateOf(row.number))),
    })),
  };
}
