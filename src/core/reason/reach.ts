import { inRunOf } from '../rules/edit';
import { type Chain, looksAtFlags, type TestTree } from '../rules/rule';
import { type LoweredChain, lowerChain } from './chain';
import { factHolds } from './facts';
import { Lowering } from './lower';
import { smallest } from './solve/fields';
import { FALSE, type Formula, not } from './solve/formula';
import { BUDGET, type Budget, Solver } from './solve/solver';
import { buildWitness, type Witness } from './witness';

export type ReachAnswer =
  /** This message fires the rule, as far as its tests are understood. */
  | { readonly answer: 'possible'; readonly witness: Witness }
  /** No message makes its tests hold with none of its exceptions. */
  | { readonly answer: 'contradiction' }
  /** Messages may make it hold, but all of them are ended or claimed before, by these entries: their places. */
  | { readonly answer: 'shadowed'; readonly blamed: readonly number[] }
  | { readonly answer: 'undecided'; readonly reason: string };

/** Messages that are tried against earlier rules before the question is given up. */
const MOST_TRIES = 400;

/** Whether messages can make conditions hold and come to a place of the chain. */
export type MeetAnswer =
  | { readonly answer: 'possible'; readonly witness: Witness }
  /** No message can; these earlier entries are to blame: their places, none where the conditions exclude each other. */
  | { readonly answer: 'impossible'; readonly blamed: readonly number[] }
  | { readonly answer: 'undecided'; readonly reason: string };

/** What rules can do at all, for every message there could be. */
export class Reach {
  readonly #lowering = new Lowering();
  readonly #lowered: LoweredChain;
  readonly #solver: Solver;
  /** Where entries end messages, in the order of the chain. */
  readonly #endings: readonly Barrier[];

  constructor(
    readonly chain: Chain,
    readonly budget: Budget = BUDGET,
  ) {
    this.#lowered = lowerChain(chain, this.#lowering);
    this.#endings = this.#lowered.entries.flatMap(({ ends: formula }, place) =>
      formula === FALSE ? [] : [{ place, formula }],
    );
    this.#solver = new Solver(this.#lowering.formulas, this.#lowering.facts);
  }

  /** Whether the rule at a place can fire. */
  canFire(place: number): ReachAnswer {
    const answer = this.meet([this.condition(place)], place);
    if (answer.answer !== 'impossible') return answer;
    return answer.blamed.length === 0 ? { answer: 'contradiction' } : { answer: 'shadowed', blamed: answer.blamed };
  }

  /** Of the entry at a place, with the flags that earlier rules set: its tests hold and no exception does. */
  condition(place: number): Formula {
    return this.#lowered.entries[place]?.condition ?? FALSE;
  }

  /** Of tests by themselves; null where they look at flags that rules set. */
  maybeFormula(tree: TestTree): Formula | null {
    return looksAtFlags(tree) ? null : this.#lowering.condition(tree, () => FALSE);
  }

  /** Where exactly one of two conditions holds. */
  differ(a: Formula, b: Formula): Formula {
    return this.#lowering.formulas.differ(a, b);
  }

  /**
   * Whether some message makes all of these hold and is tried at a place of the chain; at any place where that is null.
   * Earlier rules are asked about only where a message that is made up meets them, so that those that have nothing to do
   * with it are never looked at.
   */
  meet(wanted: readonly Formula[], place: number | null): MeetAnswer {
    const condition = this.#lowering.formulas.and(...wanted);
    const barriers = place === null ? [] : this.#barriersBefore(place);
    const met: Barrier[] = [];
    for (let tries = 0; tries < MOST_TRIES; tries++) {
      const answer = this.#possible(condition, met);
      if (answer.answer === 'impossible') {
        const few =
          met.length === 0 ? [] : smallest(met, (kept) => this.#possible(condition, kept).answer === 'impossible');
        return { answer: 'impossible', blamed: few.map((barrier) => barrier.place).sort((a, b) => a - b) };
      }
      if (answer.answer === 'undecided') return answer;
      const witness = buildWitness(answer.model, this.#lowering.facts);
      if (!witness) return { answer: 'undecided', reason: 'the message cannot be written' };
      const known = new Map<number, boolean>();
      const holds = (fact: number) => {
        const found = this.#lowering.facts[fact];
        const truth = found ? factHolds(found, witness.message, witness.envelope) : null;
        return truth ?? answer.holds(fact);
      };
      if (!this.#lowering.formulas.holds(condition, holds, known)) {
        return { answer: 'undecided', reason: 'the message is not what was asked for' };
      }
      const next = barriers.find(({ formula }) => this.#lowering.formulas.holds(formula, holds, known));
      if (!next) return { answer: 'possible', witness };
      if (met.includes(next)) return { answer: 'undecided', reason: 'the message is not what was asked for' };
      met.push(next);
    }
    return { answer: 'undecided', reason: 'too many messages were tried' };
  }

  #possible(condition: Formula, barriers: readonly Barrier[]) {
    return this.#solver.possible([condition, ...barriers.map(({ formula }) => not(formula))], this.budget);
  }

  /** What keeps messages from a rule: endings before it, and rules of its run that are tried first. */
  #barriersBefore(place: number): Barrier[] {
    const { entries } = this.#lowered;
    let head = place;
    while (head > 0 && inRunOf(this.chain.entries, head - 1, head)) head--;
    // A rule of the run claims what it holds for, whether or not it ends there.
    const claims = entries.slice(head, place).flatMap(({ entry, condition, ends }, at): Barrier[] => {
      const formula = entry.on && entry.kind === 'rule' ? condition : ends;
      return formula === FALSE ? [] : [{ place: head + at, formula }];
    });
    return [...this.#endings.slice(0, this.#endingsBefore(head)), ...claims];
  }

  /** How many entries before a place end any message. */
  #endingsBefore(place: number): number {
    let [low, high] = [0, this.#endings.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.#endings[middle] as Barrier).place < place) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

interface Barrier {
  readonly place: number;
  readonly formula: Formula;
}
