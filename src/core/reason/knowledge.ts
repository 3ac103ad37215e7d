import type { Chain } from '../rules/rule';
import type { Automaton } from './automata/language';
import { type LoweredChain, lowerChain } from './chain';
import { Lowering } from './lower';
import { Meetings } from './meeting';
import { type Assumption, COMPARISON } from './solve/assumptions';
import type { Formula } from './solve/formula';
import { BUDGET, type Budget, Solver } from './solve/solver';
import type { Witness } from './witness';

/** Cached formulas take about eight octets per member of a conjunction. */
const MOST_MEMBERS = 8_000_000;
const MOST_LANGUAGES = 20_000;
/** Messages kept per condition. */
const MOST_MESSAGES = 3;

/**
 * What is known about formulas, kept from one chain to the next. A formula stands for its tests, whatever chain they
 * are in: what is impossible in one chain is impossible in any, and a message that matches a condition does so in any.
 * After an edit only new formulas are examined.
 */
export class Knowledge {
  /** Automata are explored on demand, and are valid for any formula. */
  readonly #languages: Map<string, Automaton>;
  #known: Known;

  /**
   * `budget` applies to each question; only automata are shared with `beside`; `clock` is the current date that rules
   * see, or any time if null.
   */
  constructor(
    readonly budget: Budget = BUDGET,
    beside: Knowledge | null = null,
    readonly clock: number | null = null,
    /** Called often while a question is answered; may throw to end the question. */
    public checkpoint: () => void = () => {},
  ) {
    this.#languages = beside ? beside.#languages : new Map();
    this.#known = this.#nothing();
  }

  /** Chains as formulas, all over the same facts. */
  lower(...chains: readonly Chain[]): { readonly known: Known; readonly chains: readonly LoweredChain[] } {
    if (this.#known.lowering.formulas.members > MOST_MEMBERS) this.#known = this.#nothing();
    if (this.#languages.size > MOST_LANGUAGES) this.#languages.clear();
    const lowered = chains.map((chain) => lowerChain(chain, this.#known.lowering, this.checkpoint));
    return { known: this.#known, chains: lowered };
  }

  #nothing(): Known {
    return new Known(this.#languages, this.clock, () => this.checkpoint());
  }
}

/** A message that matches a condition. */
export interface Holding {
  readonly witness: Witness;
  /** By fact: whether the fact is true of the message. */
  readonly holds: (fact: number) => boolean;
}

/** No message matches the condition together with none of the others, or the question is undecided. */
export interface Refusal {
  readonly among: readonly Formula[];
  /** The assumptions that the proof used, or under which the question is undecided. */
  readonly assumes: readonly Assumption[];
  /** Null if no message can match. */
  readonly undecided: string | null;
}

interface Answers {
  readonly refusals: Refusal[];
  readonly messages: Holding[];
}

export class Known {
  readonly lowering: Lowering;
  readonly solver: Solver;
  readonly meetings: Meetings;
  readonly #answers = new Map<Formula, Answers>();
  readonly #exclusive = new Set<number>();
  /** By condition on one field. */
  readonly #matched = new Map<Formula, boolean>();

  constructor(languages: Map<string, Automaton>, clock: number | null, checkpoint: () => void) {
    this.lowering = new Lowering(languages, clock);
    this.solver = new Solver(this.lowering.formulas, this.lowering.facts, checkpoint);
    this.meetings = new Meetings(this.lowering.formulas, this.lowering.facts, (formula) => this.#canBeMatched(formula));
  }

  refusals(condition: Formula): readonly Refusal[] {
    return this.#answers.get(condition)?.refusals ?? [];
  }

  messages(condition: Formula): readonly Holding[] {
    return this.#answers.get(condition)?.messages ?? [];
  }

  addRefusal(condition: Formula, refusal: Refusal): void {
    this.#of(condition).refusals.push(refusal);
  }

  addMessage(condition: Formula, message: Holding): void {
    const { messages } = this.#of(condition);
    messages.unshift(message);
    messages.length = Math.min(messages.length, MOST_MESSAGES);
  }

  addExclusive(a: Formula, b: Formula): void {
    this.#exclusive.add(pairOf(a, b));
  }

  /** Whether two conditions are known to exclude each other. */
  areExclusive(a: Formula, b: Formula): boolean {
    return this.#exclusive.has(pairOf(a, b));
  }

  #canBeMatched(formula: Formula): boolean {
    const known =
      this.#matched.get(formula) ?? this.solver.possible([formula], BUDGET, COMPARISON).answer === 'possible';
    this.#matched.set(formula, known);
    return known;
  }

  #of(condition: Formula): Answers {
    const known = this.#answers.get(condition) ?? { refusals: [], messages: [] };
    this.#answers.set(condition, known);
    return known;
  }
}

/** Formulas are fewer than this bound. */
const PAIR = 2 ** 26;

/** One number for two formulas in either order. */
const pairOf = (a: Formula, b: Formula): number => (a < b ? a * PAIR + b : b * PAIR + a);
