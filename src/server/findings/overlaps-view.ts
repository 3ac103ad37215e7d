import { type OneOrder, orderOfPair } from '../../core/audit/one-order';
import { type MeetAnswer, Reach } from '../../core/reason/reach';
import { type Assumption, COMPARISON } from '../../core/reason/solve/assumptions';
import type { Chain } from '../../core/rules/rule';
import { getAudit } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { trafficSize } from '../mail/traffic';
import { type NamedRule, namedRules } from './finding-view';
import { maybeResult } from './results';
import { findingsAtHand } from './set-aside';

/** The overlap map: which pairs of rules match the same mail. */
export interface OverlapMapView {
  readonly audited: boolean;
  readonly total: number;
  /** The rules that are on, in chain order. */
  readonly rules: readonly { readonly id: string; readonly number: number; readonly name: string }[];
  /** Indexes into `rules`, ascending; stored messages, 0 if only an example message shows the overlap. */
  readonly pairs: readonly (readonly [a: number, b: number, messages: number])[];
  readonly unasked: number;
  /** Pairs that overlap but are not in the list, since there are too many; no stored message matches both. */
  readonly unlisted: number;
}

export function overlapMapView(store: Store, auditId: string): OverlapMapView {
  const audit = getAudit(store, auditId);
  const result = maybeResult(store, audit, audit.draft);
  const rules = audit.draft.entries.flatMap(({ id, name, on, kind }, place) =>
    on && kind === 'rule' ? [{ id, number: place + 1, name }] : [],
  );
  const index = new Map(rules.map(({ id }, at) => [id, at]));
  const pairs = (result?.overlaps ?? []).flatMap(({ a, b, messages }) => {
    const [first, second] = [index.get(a), index.get(b)];
    return first === undefined || second === undefined ? [] : [[first, second, messages] as const];
  });
  const { unasked = 0, unlisted = 0 } = result ?? {};
  return { audited: result !== null, total: trafficSize(store, audit), rules, pairs, unasked, unlisted };
}

/** Details of a pair of rules. */
export interface PairView {
  readonly rules: readonly NamedRule[];
  readonly split: { readonly onlyFirst: number; readonly both: number; readonly onlySecond: number };
  /** Findings about both. */
  readonly findings: readonly { readonly key: string; readonly claim: string }[];
  /** Whether some message can match both, if no stored one does; computed when the pair is opened. */
  readonly madeUp:
    | { readonly answer: 'possible'; readonly text: string }
    | { readonly answer: 'impossible'; readonly assumes: readonly Assumption[] }
    | { readonly answer: 'undecided'; readonly reason: string }
    | null;
  /** Whether their order matters to messages that both match, with one to which it does; null if none can match both. */
  readonly order:
    | { readonly order: 'alike' | 'undecided' }
    | { readonly order: 'conflict'; readonly text: string }
    | null;
}

/** Null if one of the two is not a rule of the draft, or the draft is not simulated. */
export function maybePair(store: Store, auditId: string, a: string, b: string): PairView | null {
  const audit = getAudit(store, auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  const rules = namedRules(audit, [a, b]).sort((one, other) => one.number - other.number);
  const [first, second] = rules.map(({ number }) => flow?.entries[number - 1]?.held);
  if (!first || !second) return null;
  const split = {
    onlyFirst: first.without(second).count(),
    both: first.and(second).count(),
    onlySecond: second.without(first).count(),
  };
  const findings = findingsAtHand(store, audit).flatMap(({ key, claim, kind, rules: named }) =>
    kind !== 'overlap' && named.includes(a) && named.includes(b) ? [{ key, claim }] : [],
  );
  return { rules, split, findings, ...askPair(audit.draft, rules, split.both > 0) };
}

/** The lowered chain is cached for all pairs opened while it is the same. */
const reaches = new WeakMap<object, Reach>();

function askPair(chain: Chain, rules: readonly NamedRule[], isMet: boolean): Pick<PairView, 'madeUp' | 'order'> {
  const reach = reaches.get(chain) ?? new Reach(chain);
  reaches.set(chain, reach);
  const [a = 0, b = 0] = rules.map(({ number }) => number - 1);
  const answer = reach.meet([reach.condition(a), reach.condition(b)], null, COMPARISON);
  const known = answer.answer === 'possible' ? [answer.witness] : [];
  const order = answer.answer === 'impossible' && !isMet ? null : orderOfPair(chain, reach, [a, b], known);
  return { madeUp: isMet ? null : madeUpOf(answer), order: order && writtenOrder(order) };
}

function madeUpOf(answer: MeetAnswer): PairView['madeUp'] {
  if (answer.answer === 'impossible') return { answer: 'impossible', assumes: answer.assumes };
  return answer.answer === 'undecided' ? answer : { answer: 'possible', text: answer.witness.open.trimEnd() };
}

const writtenOrder = (order: OneOrder): PairView['order'] =>
  order.order === 'conflict' ? { order: 'conflict', text: order.witness.open.trimEnd() } : order;
