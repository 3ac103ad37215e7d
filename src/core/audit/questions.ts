import { type Comparison, compareChains } from '../reason/equivalence';
import { type MeetAnswer, Reach, type ReachAnswer } from '../reason/reach';
import type { Formula } from '../reason/solve/formula';
import type { Chain } from '../rules/rule';

/** How much an audit asks at most. What is not asked is said to be so, never taken as settled. */
export interface AuditBudget {
  /** Pairs of rules that no message at hand makes both hold. */
  readonly pairs: number;
  /** Parts of rules that may be superfluous. */
  readonly parts: number;
  /** Comparisons of the whole chain with a changed one, each as dear as all other questions on a rule. */
  readonly comparisons: number;
}

export const AUDIT_BUDGET: AuditBudget = { pairs: 2500, parts: 3000, comparisons: 80 };

/** What the kinds of findings ask of reasoning, counted. */
export class Questions {
  readonly #reach: Reach;
  readonly #fires = new Map<number, ReachAnswer>();
  readonly #left: { -readonly [Key in keyof AuditBudget]: number };

  constructor(
    readonly chain: Chain,
    readonly budget: AuditBudget,
  ) {
    this.#reach = new Reach(chain);
    this.#left = { ...budget };
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

  get formulas(): Pick<Reach, 'maybeFormula' | 'differ'> {
    return this.#reach;
  }

  /** Null where the budget is spent. */
  maybeMeet(kind: 'pairs' | 'parts', wanted: readonly Formula[], place: number | null): MeetAnswer | null {
    if (this.#left[kind] <= 0) return null;
    this.#left[kind]--;
    return this.#reach.meet(wanted, place);
  }

  /** Whether another chain treats all messages alike, or those for which the entries at `among` hold. */
  maybeCompare(other: Chain, among: readonly number[] = []): Comparison | null {
    if (this.#left.comparisons <= 0) return null;
    this.#left.comparisons--;
    return compareChains(this.chain, other, undefined, among);
  }

  /** Whether there is any left of this kind. */
  hasLeft(kind: keyof AuditBudget): boolean {
    return this.#left[kind] > 0;
  }
}
