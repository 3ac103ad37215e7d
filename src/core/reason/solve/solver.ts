import { known } from '../../text/lookup';
import { ALL_ASSUMPTIONS, type Assumption, type Assumptions, areWithin, NATURAL } from './assumptions';
import { type Fact, Fields, type Model } from './fields';
import { FALSE, type Formula, type Formulas } from './formula';
import { Sat } from './sat';
import { smallest } from './smallest';

export interface Budget {
  /** Conflicts of the SAT search. */
  readonly conflicts: number;
  /** Assignments examined by the theory. */
  readonly rounds: number;
  /** Literals assigned by the SAT search. */
  readonly steps: number;
}

/** The budget of one question; most questions take less than a hundredth of this. */
export const BUDGET: Budget = { conflicts: 20_000, rounds: 600, steps: 2_000_000 };

export type Answer =
  | { readonly answer: 'possible'; readonly model: Model; readonly holds: (fact: number) => boolean }
  /** For every message that keeps these assumptions. */
  | { readonly answer: 'impossible'; readonly assumes: readonly Assumption[] }
  | { readonly answer: 'undecided'; readonly reason: string };

/**
 * Decides whether a message can satisfy formulas over facts. The SAT search proposes assignments; the theory of fields
 * looks for values, and each conflict is learned for all later questions.
 */
export class Solver {
  readonly #sat: Sat;
  /** The variable of a fact or a conjunction, by node. */
  readonly #variables = new Map<number, number>();
  readonly #fields: Fields;
  readonly #assumptions = new Map<Assumption, number>();

  /** `checkpoint` is called often, and may throw to end a question; the question can be asked again. */
  constructor(
    readonly formulas: Formulas,
    readonly facts: readonly Fact[],
    readonly checkpoint: () => void = () => {},
  ) {
    this.#sat = new Sat(checkpoint);
    this.#fields = new Fields(facts, checkpoint);
  }

  /** Whether one message that keeps the assumptions can satisfy all of these. */
  possible(together: readonly Formula[], budget: Budget = BUDGET, assuming: Assumptions = NATURAL): Answer {
    const formula = this.formulas.and(...together);
    if (formula === FALSE) return { answer: 'impossible', assumes: [] };
    const parts = this.formulas.conjuncts(formula).map((part) => this.#literal(part));
    const taken = ALL_ASSUMPTIONS.filter((one) => assuming.has(one));
    const assumed = [...taken.map((one) => this.#assumption(one)), ...parts];
    // Other facts are unconstrained and are not part of the message.
    const { facts, variables } = this.#within(formula);
    const most = this.#sat.steps + budget.steps;
    /**
     * True for this question only: an assignment blocked because no text was found in time is not a conflict for other
     * questions.
     */
    let guard: number | null = null;
    for (let round = 0; round < budget.rounds; round++) {
      this.checkpoint();
      const wanted = guard === null ? assumed : [...assumed, guard];
      const possible = this.#sat.solve(budget.conflicts, wanted, variables);
      if (possible === null || this.#sat.steps > most)
        return { answer: 'undecided', reason: 'the search exceeded its time limit' };
      if (!possible) {
        const { core } = this.#sat;
        if (guard !== null && core.includes(guard))
          return { answer: 'undecided', reason: 'no text was found within the time limit' };
        if (core.length <= SHORT) this.#sat.add(core.map(opposite));
        return { answer: 'impossible', assumes: taken.filter((one) => core.includes(this.#assumption(one))) };
      }
      const assigned = new Map(Array.from(facts, ([fact, variable]) => [fact, this.#sat.isTrue(variable)]));
      const verdict = this.#fields.check(assigned, assuming);
      if (verdict.verdict === 'model') {
        return {
          answer: 'possible',
          model: verdict.model,
          holds: (fact) => assigned.get(fact) === true,
        };
      }
      const contrary = (fact: number) => 2 * known(facts, fact, 'a fact') + (assigned.get(fact) ? 1 : 0);
      if (verdict.verdict === 'conflict') {
        for (const { facts: together, assumes } of verdict.conflicts)
          this.#sat.add([...assumes.map((one) => opposite(this.#assumption(one))), ...together.map(contrary)]);
      } else {
        guard ??= 2 * this.#sat.variable();
        this.#sat.add([opposite(guard), ...verdict.facts.map(contrary)]);
      }
    }
    return { answer: 'undecided', reason: 'the limit of example messages was reached' };
  }

  /** The literal of an assumption. */
  #assumption(assumption: Assumption): number {
    const variable = this.#assumptions.get(assumption) ?? this.#sat.variable();
    this.#assumptions.set(assumption, variable);
    return 2 * variable;
  }

  /**
   * The facts of a formula and the variables of all subformulas: nothing else affects the question, and everything else
   * can be satisfied.
   */
  #within(formula: Formula) {
    const facts = new Map<number, number>();
    const variables: number[] = [];
    for (const number of this.formulas.within(formula)) {
      const node = this.formulas.node(number);
      const variable = this.#variables.get(number);
      // The formula asked about is not a subformula of another.
      if (variable === undefined) continue;
      variables.push(variable);
      if ('atom' in node) facts.set(node.atom, variable);
    }
    return { facts, variables };
  }

  /** The literal of a formula, with the clauses that define the formula and the subformulas. */
  #literal(formula: Formula): number {
    for (const number of this.formulas.within(formula, this.#variables)) {
      const variable = this.#sat.variable();
      this.#variables.set(number, variable);
      const node = this.formulas.node(number);
      if (!('and' in node)) continue;
      const parts = node.and.map((part) => this.#known(part));
      for (const part of parts) this.#sat.add([2 * variable + 1, part]);
      this.#sat.add([2 * variable, ...parts.map((part) => part ^ 1)]);
    }
    return this.#known(formula);
  }

  #known(formula: Formula): number {
    return 2 * known(this.#variables, formula >> 1, 'a variable') + (formula & 1);
  }
}

/** The most literals of a clause that is kept because it answered a question. */
const SHORT = 6;

const opposite = (literal: number): number => literal ^ 1;

/**
 * Whether a message can satisfy all of these: one that keeps all assumptions if possible, else one that keeps the
 * `allowed` ones. For "impossible", the assumptions that the proof needs.
 */
export function possibleWithin(
  solver: Solver,
  together: readonly Formula[],
  allowed: Assumptions,
  budget: Budget = BUDGET,
): Answer {
  const natural = solver.possible(together, budget, NATURAL);
  const answer =
    natural.answer === 'impossible' && !areWithin(natural.assumes, allowed)
      ? solver.possible(together, budget, allowed)
      : natural;
  if (answer.answer !== 'impossible') return answer;
  const isEnough = (kept: readonly Assumption[]) =>
    solver.possible(together, budget, new Set(kept)).answer === 'impossible';
  return { answer: 'impossible', assumes: smallest(answer.assumes, isEnough) };
}
