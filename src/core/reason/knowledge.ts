import type { Chain } from '../rules/rule';
import type { Automaton } from './automata/language';
import { type LoweredChain, lowerChain } from './chain';
import { Lowering } from './lower';
import type { Formula } from './solve/formula';
import { BUDGET, type Budget, Solver } from './solve/solver';
import type { Witness } from './witness';

/** What is remembered takes some eight octets for each member of a conjunction. */
const MOST_MEMBERS = 8_000_000;
const MOST_LANGUAGES = 20_000;
/** Messages kept for each condition. */
const MOST_MESSAGES = 3;

/**
 * What was found out about formulas, kept from one chain to the next. A formula stands for the tests it was made of, whatever
 * chain they stand in: what can never be so can never be so in any chain, and a message that makes a condition hold does so
 * in any. After an edit only what has become another formula is asked anew.
 */
export class Knowledge {
  /** Automata are explored as they are used, and hold for any formula. */
  readonly #languages: Map<string, Automaton>;
  #known: Known;

  /**
   * `budget` is for one question; only the automata are taken from what is known `beside`; `clock` is what tests of the current
   * date see, any time where it is null.
   */
  constructor(
    readonly budget: Budget = BUDGET,
    beside: Knowledge | null = null,
    readonly clock: number | null = null,
    /** Called often while a question is looked into; may throw to end it. */
    public checkpoint: () => void = () => {},
  ) {
    this.#languages = beside ? beside.#languages : new Map();
    this.#known = this.#nothing();
  }

  /** Chains as formulas, all over the same facts. */
  lower(...chains: readonly Chain[]): { readonly known: Known; readonly chains: readonly LoweredChain[] } {
    if (this.#known.lowering.formulas.members > MOST_MEMBERS) this.#known = this.#nothing();
    let lowered = chains.map((chain) => lowerChain(chain, this.#known.lowering, this.checkpoint));
    // A field that is read as addresses for the first time may hold other values than was taken for granted.
    if (this.#known.isReshaped && this.#known.isUsed) {
      this.#renew();
      lowered = chains.map((chain) => lowerChain(chain, this.#known.lowering, this.checkpoint));
    }
    this.#known.settle();
    return { known: this.#known, chains: lowered };
  }

  #renew(): void {
    if (this.#languages.size > MOST_LANGUAGES) this.#languages.clear();
    this.#known = this.#nothing();
  }

  #nothing(): Known {
    return new Known(this.#languages, this.clock, () => this.checkpoint());
  }
}

/** A message that makes a condition hold. */
export interface Holding {
  readonly witness: Witness;
  /** Of each fact, whether it is so of the message. */
  readonly holds: (fact: number) => boolean;
}

/** That no message makes a condition hold with none of some others, or that this was not settled. */
export interface Refusal {
  readonly among: readonly Formula[];
  /** Null where no message can. */
  readonly undecided: string | null;
}

interface Answers {
  readonly refusals: Refusal[];
  readonly messages: Holding[];
}

export class Known {
  readonly lowering: Lowering;
  readonly solver: Solver;
  readonly #answers = new Map<Formula, Answers>();
  readonly #exclusive = new Set<number>();
  /** How often fields were reshaped before anything was last asked. */
  #reshaped = 0;

  constructor(languages: Map<string, Automaton>, clock: number | null, checkpoint: () => void) {
    this.lowering = new Lowering(languages, clock);
    this.solver = new Solver(this.lowering.formulas, this.lowering.facts, checkpoint);
  }

  /** Whether fields may hold other values since than was taken for granted. */
  get isReshaped(): boolean {
    return this.lowering.reshaped > this.#reshaped;
  }

  settle(): void {
    this.#reshaped = this.lowering.reshaped;
  }

  get isUsed(): boolean {
    return this.#answers.size > 0 || this.solver.isUsed;
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

  /** Whether it is known that no message makes both hold. */
  areExclusive(a: Formula, b: Formula): boolean {
    return this.#exclusive.has(pairOf(a, b));
  }

  /** How many pairs of these conditions are known to exclude each other. */
  exclusivePairs(conditions: readonly Formula[]): number {
    const times = new Map<Formula, number>();
    for (const condition of conditions) times.set(condition, (times.get(condition) ?? 0) + 1);
    let count = 0;
    for (const pair of this.#exclusive) {
      count += (times.get(Math.floor(pair / PAIR)) ?? 0) * (times.get(pair % PAIR) ?? 0);
    }
    return count;
  }

  #of(condition: Formula): Answers {
    const known = this.#answers.get(condition) ?? { refusals: [], messages: [] };
    this.#answers.set(condition, known);
    return known;
  }
}

/** Formulas are fewer than this. */
const PAIR = 2 ** 26;

/** One number for two formulas in either order. */
const pairOf = (a: Formula, b: Formula): number => (a < b ? a * PAIR + b : b * PAIR + a);
