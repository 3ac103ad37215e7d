import { inRunOf } from '../rules/edit';
import { type Chain, looksAtFlags, type TestTree } from '../rules/rule';
import { elementAt } from '../text/lookup';
import type { LoweredChain } from './chain';
import { factHolds } from './facts';
import { Knowledge, type Known } from './knowledge';
import type { Lowering } from './lower';
import { type Assumption, type Assumptions, areWithin, NATURAL, PROOF } from './solve/assumptions';
import { FALSE, type Formula, not, TRUE } from './solve/formula';
import { smallest } from './solve/smallest';
import { possibleWithin } from './solve/solver';
import type { Meeting } from './subject-meeting';
import { buildWitness, type Witness } from './witness';

export type ReachAnswer =
  /** This message makes the rule act, as far as the rule's tests are understood. */
  | { readonly answer: 'possible'; readonly witness: Witness }
  /** No message that keeps the assumptions matches its tests and none of its exceptions. */
  | { readonly answer: 'contradiction'; readonly assumes: readonly Assumption[] }
  /** Messages may match, but these earlier entries stop or claim all that keep the assumptions: their places. */
  | { readonly answer: 'shadowed'; readonly blamed: readonly number[]; readonly assumes: readonly Assumption[] }
  | { readonly answer: 'undecided'; readonly reason: string };

/** The most messages tried against earlier rules. */
const MOST_TRIES = 400;

/** Whether messages can match conditions and reach a place of the chain. */
export type MeetAnswer =
  | { readonly answer: 'possible'; readonly witness: Witness }
  /**
   * No message that keeps the assumptions can; these earlier entries are to blame: their places, none if the conditions
   * exclude each other.
   */
  | { readonly answer: 'impossible'; readonly blamed: readonly number[]; readonly assumes: readonly Assumption[] }
  | { readonly answer: 'undecided'; readonly reason: string };

/** What rules can do, for every possible message. */
export class Reach {
  readonly #known: Known;
  readonly #lowering: Lowering;
  readonly #lowered: LoweredChain;
  /** The stopping conditions of entries, in chain order. */
  readonly #endings: readonly Barrier[];

  constructor(
    readonly chain: Chain,
    /** The shared knowledge, which is extended. */
    readonly knowledge = new Knowledge(),
  ) {
    const { known, chains } = knowledge.lower(chain);
    this.#known = known;
    this.#lowering = known.lowering;
    this.#lowered = elementAt(chains, 0);
    this.#endings = this.#lowered.entries.flatMap(({ ends: formula }, place) =>
      formula === FALSE ? [] : [{ place, formula }],
    );
  }

  /** Whether the rule at a place can act. */
  canFire(place: number): ReachAnswer {
    return asReach(this.meet([this.condition(place)], place));
  }

  /** The same as if no other rule kept mail from it. */
  canMatch(place: number): ReachAnswer {
    return asReach(this.meet([this.condition(place)], null));
  }

  /** For the entry at an index, given the flags set by earlier rules: the tests are true and no exception is. */
  condition(place: number): Formula {
    return this.#lowered.entries[place]?.condition ?? FALSE;
  }

  /** The condition of the tests alone; null if the tests read flags that rules set. */
  maybeFormula(tree: TestTree): Formula | null {
    return looksAtFlags(tree) ? null : this.#lowering.condition(tree, () => FALSE);
  }

  /** Exactly one of two conditions is true. */
  differ(a: Formula, b: Formula): Formula {
    return this.#lowering.formulas.differ(a, b);
  }

  /** Whether the forms of two conditions tell if one message can match both; each alone can be matched. */
  settle(a: Formula, b: Formula): Meeting {
    return this.#known.meetings.settle(a, b);
  }

  /** The same number for conditions that are apart from the same others; see `areApart`. */
  shapeOf(condition: Formula): number {
    return this.#known.meetings.shapeOf(condition);
  }

  /** Whether two conditions have nothing in common, or nothing that matters: then one message can match both. */
  areApart(a: Formula, b: Formula): boolean {
    return this.#known.meetings.areApart(a, b);
  }

  /** Whether it is known without a question that no message matches both. */
  areExclusive(a: Formula, b: Formula): boolean {
    return this.#known.meetings.settle(a, b) === 'exclusive' || this.#known.areExclusive(a, b);
  }

  addExclusive(a: Formula, b: Formula): void {
    this.#known.addExclusive(a, b);
  }

  /**
   * Whether some message matches all of these and is tried at a place of the chain, or anywhere if null. Earlier rules
   * are examined only if a constructed message meets them, so unrelated ones never are. A proof uses the `allowed`
   * assumptions at most; a message found keeps all assumptions if possible.
   */
  meet(wanted: readonly Formula[], place: number | null, allowed: Assumptions = PROOF): MeetAnswer {
    const condition = this.#lowering.formulas.and(...wanted);
    const barriers = place === null ? [] : this.#barriersBefore(place);
    return this.#recallOrAsk(condition, barriers, allowed);
  }

  /**
   * A message that the rules at these places match, and no other rule up to the last of them but those that match every
   * message; null if there is none, or none was found.
   */
  maybeAlone(places: readonly number[]): Witness | null {
    const conditions = places.map((place) => this.condition(place));
    const earlier = this.#lowered.entries.slice(0, Math.max(...places));
    const others = earlier.flatMap(({ entry, condition: formula }, place): Barrier[] => {
      const isOther = entry.on && entry.kind === 'rule' && !places.includes(place);
      return isOther && formula !== FALSE && formula !== TRUE ? [{ place, formula }] : [];
    });
    const condition = this.#lowering.formulas.and(...conditions);
    const answer = this.#recallOrAsk(condition, others, PROOF);
    return answer.answer === 'possible' ? answer.witness : null;
  }

  /** The answer if known without a question. */
  recall(wanted: readonly Formula[], place: number | null, allowed: Assumptions = PROOF): MeetAnswer | null {
    const condition = this.#lowering.formulas.and(...wanted);
    return this.#recall(condition, place === null ? [] : this.#barriersBefore(place), allowed);
  }

  #recallOrAsk(condition: Formula, barriers: readonly Barrier[], allowed: Assumptions): MeetAnswer {
    const met: Barrier[] = [];
    return this.#recall(condition, barriers, allowed, met) ?? this.#ask(condition, barriers, allowed, met);
  }

  /** Adds to `met` the barriers that keep known messages from it. */
  #recall(
    condition: Formula,
    barriers: readonly Barrier[],
    allowed: Assumptions,
    met: Barrier[] = [],
  ): MeetAnswer | null {
    for (const { among, assumes, undecided } of this.#known.refusals(condition)) {
      if (!areWithin(assumes, allowed) || (undecided !== null && assumes.length < allowed.size)) continue;
      const blamed = among.map((formula) => barriers.find((barrier) => barrier.formula === formula)?.place ?? -1);
      if (blamed.includes(-1)) continue;
      if (undecided !== null) return { answer: 'undecided', reason: undecided };
      return { answer: 'impossible', blamed: blamed.sort((a, b) => a - b), assumes };
    }
    const { formulas } = this.#lowering;
    for (const { witness, holds } of this.#known.messages(condition)) {
      const known = new Map<number, boolean>();
      const barrier = barriers.find(({ formula }) => formulas.holds(formula, holds, known));
      if (!barrier) return { answer: 'possible', witness };
      if (!met.includes(barrier)) met.push(barrier);
    }
    return null;
  }

  #ask(condition: Formula, barriers: readonly Barrier[], allowed: Assumptions, met: Barrier[]): MeetAnswer {
    const { formulas } = this.#lowering;
    const undecided = (reason: string): MeetAnswer => {
      const among = met.map(({ formula }) => formula);
      this.#known.addRefusal(condition, { among, assumes: [...allowed], undecided: reason });
      return { answer: 'undecided', reason };
    };
    let assuming = NATURAL;
    for (let tries = 0; tries < MOST_TRIES; tries++) {
      const answer = this.#possible(condition, met, assuming);
      if (answer.answer === 'impossible') {
        if (areWithin(answer.assumes, allowed)) return this.#proved(condition, met, allowed);
        assuming = allowed;
        continue;
      }
      if (answer.answer === 'undecided') return undecided(answer.reason);
      const witness = buildWitness(answer.model, this.#lowering.facts);
      if (!witness) return undecided('no example message could be constructed');
      const known = new Map<number, boolean>();
      const holds = (fact: number) => {
        const found = this.#lowering.facts[fact];
        const truth = found ? factHolds(found, witness.message, witness.envelope, witness.now) : null;
        return truth ?? answer.holds(fact);
      };
      if (!formulas.holds(condition, holds, known)) return undecided('the example message did not show the claim');
      const next = barriers.find(({ formula }) => formulas.holds(formula, holds, known));
      if (!next) {
        this.#known.addMessage(condition, { witness, holds });
        return { answer: 'possible', witness };
      }
      if (met.includes(next)) return undecided('the example message did not show the claim');
      met.push(next);
    }
    return undecided('the limit of example messages was reached');
  }

  /** The smallest set of barriers, and then of assumptions, with which no message matches the condition. */
  #proved(condition: Formula, met: readonly Barrier[], allowed: Assumptions): MeetAnswer {
    const isImpossible = (barriers: readonly Barrier[], assuming: Assumptions) =>
      this.#possible(condition, barriers, assuming).answer === 'impossible';
    const few = met.length === 0 ? [] : smallest(met, (kept) => isImpossible(kept, allowed));
    const formula = [condition, ...few.map((barrier) => not(barrier.formula))];
    const last = possibleWithin(this.#known.solver, formula, allowed, this.knowledge.budget);
    const assumes = last.answer === 'impossible' ? last.assumes : [...allowed];
    this.#known.addRefusal(condition, { among: few.map(({ formula }) => formula), assumes, undecided: null });
    return { answer: 'impossible', blamed: few.map(({ place }) => place).sort((a, b) => a - b), assumes };
  }

  #possible(condition: Formula, barriers: readonly Barrier[], assuming: Assumptions) {
    return this.#known.solver.possible(
      [condition, ...barriers.map(({ formula }) => not(formula))],
      this.knowledge.budget,
      assuming,
    );
  }

  /** The conditions that keep messages from a rule: earlier stops, and earlier rules of the same run. */
  #barriersBefore(place: number): Barrier[] {
    const { entries } = this.#lowered;
    let head = place;
    while (head > 0 && inRunOf(this.chain.entries, head - 1, head)) head--;
    // A rule of a run claims every message the rule matches, whether or not the rule stops.
    const claims = entries.slice(head, place).flatMap(({ entry, condition, ends }, at): Barrier[] => {
      const formula = entry.on && entry.kind === 'rule' ? condition : ends;
      return formula === FALSE ? [] : [{ place: head + at, formula }];
    });
    return [...this.#endings.slice(0, this.#endingsBefore(head)), ...claims];
  }

  /** How many entries before a place stop any message. */
  #endingsBefore(place: number): number {
    let [low, high] = [0, this.#endings.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (elementAt(this.#endings, middle).place < place) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

interface Barrier {
  readonly place: number;
  readonly formula: Formula;
}

function asReach(answer: MeetAnswer): ReachAnswer {
  if (answer.answer !== 'impossible') return answer;
  const { blamed, assumes } = answer;
  return blamed.length === 0 ? { answer: 'contradiction', assumes } : { answer: 'shadowed', blamed, assumes };
}
