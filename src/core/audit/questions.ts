import { type Comparison, compareChains } from '../reason/equivalence';
import type { Knowledge } from '../reason/knowledge';
import { type MeetAnswer, Reach, type ReachAnswer } from '../reason/reach';
import type { Formula } from '../reason/solve/formula';
import type { Chain } from '../rules/rule';

/** How much an audit asks at most; what is not asked is never taken as settled. */
export interface AuditBudget {
  /** Pairs of rules that no message at hand makes both hold. */
  readonly pairs: number;
  /** Parts of rules that may be superfluous. */
  readonly parts: number;
  /** Comparisons of the whole chain with a changed one, which in long chains take too long. */
  readonly comparisons: number;
  /** Pairs that only made-up messages show to overlap, of which it is asked whether their order matters. */
  readonly orders: number;
  /** Whether each overlap that only made-up messages show is stated by itself, or all of them as a map. */
  readonly overlapsByThemselves: boolean;
}

/**
 * Questions grow with the square of a chain, and what one costs grows with the chain. Of up to 80 rules all pairs are asked
 * about.
 */
export function auditBudget(rules: number): AuditBudget {
  return rules <= 80
    ? { pairs: 3200, parts: 3000, comparisons: 60, orders: 3200, overlapsByThemselves: true }
    : {
        pairs: Math.floor(60_000 / rules),
        parts: Math.floor(250_000 / rules),
        comparisons: 0,
        orders: 600,
        overlapsByThemselves: false,
      };
}

/** What is counted while it is asked. */
type Counted = 'pairs' | 'parts' | 'comparisons' | 'orders';

/** What the kinds of findings ask of reasoning, counted. */
export class Questions {
  readonly #reach: Reach;
  readonly #fires = new Map<number, ReachAnswer>();
  readonly #left: Record<Counted, number>;

  constructor(
    readonly chain: Chain,
    readonly budget: AuditBudget,
    readonly knowledge: Knowledge,
  ) {
    this.#reach = new Reach(chain, knowledge);
    const { pairs, parts, comparisons, orders } = budget;
    this.#left = { pairs, parts, comparisons, orders };
  }

  canFire(place: number): ReachAnswer {
    const known = this.#fires.get(place) ?? this.#reach.canFire(place);
    this.#fires.set(place, known);
    return known;
  }

  /** What is known without asking. */
  known(place: number): ReachAnswer | null {
    return this.#fires.get(place) ?? null;
  }

  condition(place: number): Formula {
    return this.#reach.condition(place);
  }

  get formulas(): Pick<Reach, 'maybeFormula' | 'differ' | 'areExclusive' | 'addExclusive' | 'exclusivePairs'> {
    return this.#reach;
  }

  /** Null where the budget is spent; what is known costs nothing. */
  maybeMeet(kind: 'pairs' | 'parts', wanted: readonly Formula[], place: number | null): MeetAnswer | null {
    const known = this.#reach.recall(wanted, place);
    if (known) return known;
    if (this.#left[kind] <= 0) return null;
    this.#left[kind]--;
    return this.#reach.meet(wanted, place);
  }

  /** Whether another chain treats all messages alike, or those for which the entries at `among` hold. */
  maybeCompare(other: Chain, among: readonly number[] = []): Comparison | null {
    if (this.#left.comparisons <= 0) return null;
    this.#left.comparisons--;
    return compareChains(this.chain, other, { among, knowledge: this.knowledge });
  }

  hasLeft(kind: Counted): boolean {
    return this.#left[kind] > 0;
  }

  /** Whether one more pair may be looked at. */
  takeOrder(): boolean {
    return this.#left.orders-- > 0;
  }
}
