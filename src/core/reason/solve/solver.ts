import { type Fact, Fields, type Model } from './fields';
import { FALSE, type Formula, type Formulas, TRUE } from './formula';
import { Sat } from './sat';

export interface Budget {
  /** Conflicts of the search. */
  readonly conflicts: number;
  /** Assignments that are looked at as a message. */
  readonly rounds: number;
}

export const BUDGET: Budget = { conflicts: 20_000, rounds: 600 };

export type Answer =
  | { readonly answer: 'possible'; readonly model: Model; readonly holds: (fact: number) => boolean }
  | { readonly answer: 'impossible' }
  | { readonly answer: 'undecided'; readonly reason: string };

/**
 * Whether a message can make formulas over facts hold all at once. The search proposes which facts are true; the theory of
 * fields looks for values that make them so, and each of its refusals is learned.
 */
export class Solver {
  readonly #sat = new Sat();
  /** The variable of a fact or of a conjunction, by the node of its formula. */
  readonly #variables = new Map<number, number>();
  readonly #facts: { readonly fact: number; readonly variable: number }[] = [];
  readonly #fields: Fields;
  #gaveUp = false;

  constructor(
    readonly formulas: Formulas,
    facts: readonly Fact[],
    fields = new Fields(facts),
  ) {
    this.#fields = fields;
  }

  require(formula: Formula): void {
    if (formula === TRUE) return;
    if (formula === FALSE) {
      this.#sat.add([]);
      return;
    }
    const node = this.formulas.node(formula);
    // What must hold need not have a variable of its own.
    if ('and' in node && (formula & 1) === 0) for (const part of node.and) this.require(part);
    else if ('and' in node) this.#sat.add(node.and.map((part) => this.#literal(part) ^ 1));
    else this.#sat.add([this.#literal(formula)]);
  }

  solve(budget: Budget = BUDGET): Answer {
    for (let round = 0; round < budget.rounds; round++) {
      const possible = this.#sat.solve(budget.conflicts);
      if (possible === null) return { answer: 'undecided', reason: 'the search took too long' };
      if (!possible) {
        return this.#gaveUp
          ? { answer: 'undecided', reason: 'a text was not found within the budget' }
          : { answer: 'impossible' };
      }
      const assigned = new Map(this.#facts.map(({ fact, variable }) => [fact, this.#sat.isTrue(variable)]));
      const verdict = this.#fields.check(assigned);
      if (verdict.verdict === 'model') {
        return { answer: 'possible', model: verdict.model, holds: (fact) => assigned.get(fact) ?? false };
      }
      if (verdict.verdict === 'gave up') this.#gaveUp = true;
      const variables = new Map(this.#facts.map(({ fact, variable }) => [fact, variable]));
      this.#sat.add(verdict.facts.map((fact) => 2 * (variables.get(fact) as number) + (assigned.get(fact) ? 1 : 0)));
    }
    return { answer: 'undecided', reason: 'too many messages were tried' };
  }

  /** The literal of a formula, with the clauses that bind it to its parts. */
  #literal(formula: Formula): number {
    const sign = formula & 1;
    const number = formula >> 1;
    const known = this.#variables.get(number);
    if (known !== undefined) return 2 * known + sign;
    const variable = this.#sat.variable();
    this.#variables.set(number, variable);
    const node = this.formulas.node(formula);
    if ('atom' in node) this.#facts.push({ fact: node.atom, variable });
    else {
      const parts = node.and.map((part) => this.#literal(part));
      for (const part of parts) this.#sat.add([2 * variable + 1, part]);
      this.#sat.add([2 * variable, ...parts.map((part) => part ^ 1)]);
    }
    return 2 * variable + sign;
  }
}
