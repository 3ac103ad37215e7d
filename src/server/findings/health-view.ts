import type { Certainty, Consequence } from '../../core/audit/finding';
import { isConfirmed } from '../../core/audit/grouping';
import type { OrderState } from '../../core/audit/order-table';
import type { Bitmap } from '../../core/flow/bitmap';
import { elementAt } from '../../core/text/lookup';
import { getAudit } from '../audits/audits';
import { type Destination, destinationsOf } from '../chain/destinations';
import { maybeFlow } from '../chain/simulation';
import { anyOf, firedOften } from '../changes/compare-destinations';
import type { Store } from '../database/open';
import { datesOf } from '../mail/message-numbers';
import { maybeResult } from './results';
import { findingsAtHand } from './set-aside';

/** The overview of an audit: figures that each lead to what they count. */
export interface HealthView {
  readonly total: number;
  readonly rules: number;
  readonly destinations: readonly Destination[];
  /** Findings by consequence and certainty. */
  readonly findings: readonly ({ readonly consequence: Consequence; readonly all: number } & Readonly<
    Record<Certainty, number>
  >)[];
  /** Messages that no rule acts on, one rule, several rules. */
  readonly coverage: { readonly untouched: number; readonly once: number; readonly often: number };
  /** Rules by when they last acted, with the rules themselves. */
  readonly lastFired: readonly {
    readonly key: string;
    readonly label: string;
    readonly rules: readonly { readonly id: string; readonly name: string }[];
  }[];
  readonly overlaps: number;
  readonly unasked: number;
  /** What is known of the order of the pairs that overlap: how many of each. */
  readonly orders: Readonly<Record<OrderState, number>>;
}

const DAY = 86_400_000;
/** Days before the newest message. */
const AGES = [
  ['month', 'in the last 30 days', 30],
  ['quarter', 'in the last 90 days', 90],
  ['year', 'in the last year', 365],
  ['years', 'in the last three years', 3 * 365],
] as const;
const CONSEQUENCES: readonly Consequence[] = ['lost', 'leaked', 'unseen', 'misplaced', 'clutter'];

/** Null while the chain is not audited. */
export function maybeHealth(store: Store, auditId: string): HealthView | null {
  const audit = getAudit(store, auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  const result = maybeResult(store, audit, audit.draft);
  // Findings not searched for are not zero.
  if (!flow || !result) return null;
  const findings = findingsAtHand(store, audit).filter(isConfirmed);
  const [once, often] = [anyOf(flow, 'fired'), firedOften(flow)];
  return {
    total: flow.total,
    rules: audit.draft.entries.length,
    destinations: destinationsOf(audit.draft, flow).filter(({ count }) => count > 0),
    findings: CONSEQUENCES.map((consequence) => {
      const own = findings.filter((one) => one.consequence === consequence);
      const by = (certainty: Certainty) => own.filter((one) => one.certainty === certainty).length;
      return {
        consequence,
        all: own.length,
        proved: by('proved'),
        shown: by('shown'),
        observed: by('observed'),
        undecided: by('undecided'),
      };
    }),
    coverage: { untouched: flow.total - once.count(), once: once.count() - often.count(), often: often.count() },
    lastFired: lastFired(flow, datesOf(store, audit)),
    overlaps: result.overlaps.length + result.unlisted,
    unasked: result.unasked,
    orders: result.orders,
  };
}

function lastFired(flow: NonNullable<ReturnType<typeof maybeFlow>>, dates: Float64Array): HealthView['lastFired'] {
  let newest = 0;
  for (const date of dates) if (date > newest) newest = date;
  const groups = new Map<string, { key: string; label: string; rules: { id: string; name: string }[] }>();
  for (const [key, label] of AGES) groups.set(key, { key, label, rules: [] });
  groups.set('before', { key: 'before', label: 'longer ago', rules: [] });
  groups.set('never', { key: 'never', label: 'never', rules: [] });
  groups.set('off', { key: 'off', label: 'switched off', rules: [] });
  for (const { entry, fired } of flow.entries) {
    groups.get(entry.on ? ageOf(fired, dates, newest) : 'off')?.rules.push({ id: entry.id, name: entry.name });
  }
  return [...groups.values()];
}

function ageOf(fired: Bitmap, dates: Float64Array, newest: number): string {
  if (fired.isEmpty()) return 'never';
  let last = 0;
  for (const number of fired.members()) if (elementAt(dates, number) > last) last = elementAt(dates, number);
  return AGES.find(([, , days]) => last >= newest - days * DAY)?.[0] ?? 'before';
}
