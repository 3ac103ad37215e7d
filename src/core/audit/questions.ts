import { areTreatedUnlike, type Comparison, compareChains } from '../reason/equivalence';
import { Knowledge } from '../reason/knowledge';
import { type MeetAnswer, Reach, type ReachAnswer } from '../reason/reach';
import { type Assumptions, COMPARISON } from '../reason/solve/assumptions';
import type { Formula } from '../reason/solve/formula';
import { BUDGET } from '../reason/solve/solver';
import type { Witness } from '../reason/witness';
import { type Chain, type ChainEntry, conditionOf, looksAtFlags, type Rule } from '../rules/rule';
import { isSame } from '../rules/same';
import type { AuditMemory } from './memory';

/** The budget of an audit; what is not asked is never taken as settled. */
export interface AuditBudget {
  /** Questions to the solver about pairs of rules. */
  readonly pairs: number;
  /** Example messages for pairs that overlap by the form of their tests. */
  readonly examples: number;
  /** Maximum number of overlapping pairs that findings examine. */
  readonly overlaps: number;
  /** Maximum number of stored messages in all these pairs together, which bounds the memory of findings. */
  readonly common: number;
  /** Parts of rules that may be superfluous. */
  readonly parts: number;
  /** Comparisons of the whole chain with a changed one, which take too long in long chains. */
  readonly comparisons: number;
  /** Of these comparisons, at most this many are about the order of two rules. */
  readonly orderComparisons: number;
  /** Pairs shown to overlap only by example messages, for which it is checked whether their order matters. */
  readonly orders: number;
  /** Whether overlaps shown only by example messages are findings of their own, or only on the map. */
  readonly overlapsByThemselves: boolean;
}

/**
 * The number of questions grows with the square of a chain, and their cost with its length. Up to 30 rules, an example
 * message is constructed for every pair that overlaps, and its order searched; above that, for some pairs, neighbours
 * first, since what no stored message shows is possible only.
 */
export function auditBudget(rules: number): AuditBudget {
  if (rules <= FEW) {
    return {
      ...MOST,
      pairs: 20_000,
      examples: 20_000,
      parts: 3000,
      comparisons: 400,
      orderComparisons: 400,
      orders: 3200,
      overlapsByThemselves: true,
    };
  }
  const isLong = rules > COMPARABLE;
  return {
    ...MOST,
    pairs: isLong ? 5000 : 20_000,
    examples: Math.min(100, Math.floor(20_000 / rules)),
    parts: isLong ? Math.floor(250_000 / rules) : 3000,
    comparisons: isLong ? 0 : 400,
    orderComparisons: 0,
    orders: Math.min(300, Math.floor(30_000 / rules)),
    overlapsByThemselves: false,
  };
}

/** Findings on these are at most some 250 MB of JSON. */
const MOST = { overlaps: 20_000, common: 12_000_000 };

/** In chains of so few rules, all that is asked is answered. */
const FEW = 30;

/** Chains of up to so many rules are compared as a whole with changed ones. */
export const COMPARABLE = 80;

/** Counters that limit questions. */
type Counted = Exclude<keyof AuditBudget, 'overlapsByThemselves'>;

/** The questions that kinds of findings ask of the reasoning, counted. */
export class Questions {
  readonly #reach: Reach;
  readonly #fires = new Map<number, ReachAnswer>();
  readonly #left: Record<Counted, number>;
  /** For comparisons only: the formulas of more chains would slow down questions about this one. */
  readonly #comparing: Knowledge;

  constructor(
    readonly chain: Chain,
    readonly budget: AuditBudget,
    readonly memory: AuditMemory,
    /** Called before each question; may throw to cancel. */
    readonly checkpoint: () => void = () => {},
  ) {
    this.#reach = new Reach(chain, memory.knowledge);
    this.#comparing = new Knowledge(BUDGET, memory.knowledge, null, checkpoint);
    const { overlapsByThemselves: _, ...counted } = budget;
    this.#left = counted;
  }

  canFire(place: number): ReachAnswer {
    this.checkpoint();
    const known = this.#fires.get(place) ?? this.#reach.canFire(place);
    this.#fires.set(place, known);
    return known;
  }

  /** Whether the rule at a place can act if no other rule keeps mail from it. */
  canMatch(place: number): ReachAnswer {
    this.checkpoint();
    const answer = this.#reach.canMatch(place);
    if (answer.answer === 'contradiction') this.#fires.set(place, answer);
    return answer;
  }

  /** The answer if known without a question. */
  known(place: number): ReachAnswer | null {
    return this.#fires.get(place) ?? null;
  }

  condition(place: number): Formula {
    return this.#reach.condition(place);
  }

  get formulas(): Pick<
    Reach,
    'maybeFormula' | 'differ' | 'areExclusive' | 'addExclusive' | 'settle' | 'shapeOf' | 'areApart'
  > {
    return this.#reach;
  }

  /** Null if the budget is used up; known answers are free. A proof may use the `allowed` assumptions. */
  maybeMeet(
    kind: 'pairs' | 'parts',
    wanted: readonly Formula[],
    place: number | null,
    allowed: Assumptions = COMPARISON,
  ): MeetAnswer | null {
    const known = this.#reach.recall(wanted, place, allowed);
    if (known) return known;
    if (this.#left[kind] <= 0) return null;
    this.#left[kind]--;
    this.checkpoint();
    return this.#reach.meet(wanted, place, allowed);
  }

  /** A message that two rules match, and no other rule up to the second of them; null if none was found. */
  maybeAlone(a: number, b: number): Witness | null {
    if (this.#left.pairs <= 0) return null;
    this.#left.pairs--;
    this.checkpoint();
    return this.#reach.maybeAlone([a, b]);
  }

  /**
   * Whether another chain treats all messages alike, or those that match the rules at `among`; null if the budget is
   * used up. Known answers are free.
   */
  maybeCompare(other: Chain, among: readonly number[] = []): Comparison | null {
    // Chains this long are never compared, so nothing is known.
    if (this.budget.comparisons === 0) return null;
    const [first, second] = this.#concerned(other, among);
    const ids = among.map((place) => this.chain.entries[place]?.id);
    const places = ids.map((id) => first.entries.findIndex((entry) => entry.id === id));
    const key = [this.memory.contentsOf(first), this.memory.contentsOf(second), places.join()].join(' ');
    const known = this.memory.comparison(key);
    if (known) return known;
    if (this.#left.comparisons <= 0) return null;
    this.#left.comparisons--;
    this.checkpoint();
    const found = compareChains(first, second, {
      among: places,
      knowledge: this.#comparing,
    });
    const confirmed = found.verdict !== 'different' || areTreatedUnlike(this.chain, other, found.witness);
    const answer: Comparison = confirmed
      ? found
      : { verdict: 'undecided', reason: 'the interpreter does not confirm it' };
    this.memory.addComparison(key, answer);
    // Available from the next audit on.
    if (answer.verdict === 'different') this.memory.add(answer.witness);
    return answer;
  }

  /**
   * Both chains without entries that act in neither: those that are off, or known not to match together with the rules
   * at `among`.
   */
  #concerned(other: Chain, among: readonly number[]): readonly [Chain, Chain] {
    const { entries } = this.chain;
    const others = new Map(other.entries.map((entry) => [entry.id, entry]));
    const narrows = among.length > 0 && !among.some((place) => hasFlagTests(entries[place]));
    const idle = entries.flatMap((entry, place) => {
      const there = others.get(entry.id) ?? entry;
      if (!entry.on && !there.on) return [entry.id];
      if (!narrows || among.includes(place) || hasFlagTests(entry) || !testsAlike(entry, there)) return [];
      const never = among.some((one) => this.#reach.areExclusive(this.condition(one), this.condition(place)));
      return never ? [entry.id] : [];
    });
    return [withoutIdle(this.chain, new Set(idle)), withoutIdle(other, new Set(idle))];
  }

  hasLeft(kind: Counted): boolean {
    return this.#left[kind] > 0;
  }

  /** Whether an example message for an overlapping pair may matter. */
  wantsExample(a: Rule, b: Rule): boolean {
    return this.budget.overlapsByThemselves || !isSame(a.actions, b.actions);
  }

  /** Whether one more may be constructed. */
  takeExample(): boolean {
    return this.#left.examples-- > 0;
  }

  /** Whether one more overlapping pair, with this many common stored messages, may be examined. */
  takeOverlap(common: number): boolean {
    if (!this.mayTakeOverlap(common)) return false;
    this.#left.overlaps--;
    this.#left.common -= common;
    return true;
  }

  /** The same without consuming budget: if not, pairs are left out. */
  mayTakeOverlap(common: number): boolean {
    return this.#left.overlaps > 0 && this.#left.common >= common;
  }

  /** Whether chains may be compared once more because of an order. */
  takeOrderComparison(): boolean {
    return this.#left.comparisons > 0 && this.#left.orderComparisons-- > 0;
  }

  /** Whether one more pair may be checked. */
  takeOrder(): boolean {
    return this.#left.orders-- > 0;
  }
}

/** Script blocks may read anything. */
const hasFlagTests = (entry: ChainEntry | undefined): boolean =>
  entry?.kind !== 'rule' || looksAtFlags(conditionOf(entry));

const testsAlike = (a: ChainEntry, b: ChainEntry): boolean =>
  a.kind === 'rule' && b.kind === 'rule' && isSame([a.tests, a.unless], [b.tests, b.unless]);

/** Inactive entries are switched off within linked runs, and removed elsewhere. */
function withoutIdle(chain: Chain, idle: ReadonlySet<string>): Chain {
  const entries = chain.entries.flatMap((entry, place): ChainEntry[] => {
    if (!idle.has(entry.id)) return [entry];
    const next = chain.entries[place + 1];
    const linked = (one: ChainEntry | undefined) => one?.kind === 'rule' && one.link === 'otherwise';
    return linked(entry) || linked(next) ? [{ ...entry, on: false }] : [];
  });
  return { ...chain, entries };
}
