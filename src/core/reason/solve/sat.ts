import { elementAt } from '../../text/lookup';
import { Order } from './order';

/**
 * Satisfiability of clauses by conflict-driven clause learning (Marques-Silva and Sakallah, "GRASP", 1999; two watched
 * literals as in Moskewicz and others, "Chaff", 2001). Variables are tried false first, so that models are small. A
 * literal is twice the variable, plus one for the negation.
 */
export class Sat {
  /** Clauses by the literals they watch. */
  readonly #clausesOf: number[][][] = [];
  /** By literal: 1 true, -1 false, 0 not assigned. */
  readonly #truths: number[] = [];
  readonly #levels: number[] = [];
  readonly #reasons: (readonly number[] | null)[] = [];
  /** Variables of recent conflicts first (VSIDS). */
  readonly #order = new Order();
  readonly #phase: boolean[] = [];
  readonly #trail: number[] = [];
  readonly #starts: number[] = [];
  #head = 0;
  #step = 1;
  #refuted = false;
  conflicts = 0;
  #core: readonly number[] = [];
  /** The number of literals assigned in all searches: the measure of work. */
  steps = 0;

  /** `checkpoint` is called at each conflict, and may throw to end a search; the next search restarts. */
  constructor(readonly checkpoint: () => void = () => {}) {}

  variable(): number {
    const number = this.#levels.push(0) - 1;
    this.#truths.push(0, 0);
    this.#reasons.push(null);
    this.#order.grow();
    this.#phase.push(false);
    this.#clausesOf.push([], []);
    return number;
  }

  /** Adds a clause at any time; the search then restarts from the root level. */
  add(clause: readonly number[]): void {
    this.#backTo(0);
    const literals = [...new Set(clause)];
    if (literals.some((literal) => literals.includes(literal ^ 1) || this.#truth(literal) > 0)) return;
    const open = literals.filter((literal) => this.#truth(literal) === 0);
    const [first] = open;
    if (first === undefined) this.#refuted = true;
    else if (open.length === 1) this.#assign(first, null);
    else this.#watch(open);
  }

  /**
   * Whether all clauses are satisfiable with the literals `assumed`; null beyond `budget` conflicts. With `among`, only
   * those variables are decided: the caller guarantees that the others can always be completed.
   */
  solve(budget: number, assumed: readonly number[] = [], among: readonly number[] | null = null): boolean | null {
    this.#core = [];
    if (this.#refuted) return false;
    this.#backTo(0);
    if (among) this.#order.restrictTo(among);
    const most = this.conflicts + budget;
    for (;;) {
      const conflict = this.#propagate();
      if (conflict) {
        if (this.#starts.length === 0) {
          this.#refuted = true;
          return false;
        }
        if (++this.conflicts > most) return null;
        this.#learn(conflict);
        this.checkpoint();
        continue;
      }
      // Each assumption has a decision level of its own, below all decisions.
      const wanted = assumed[this.#starts.length];
      if (wanted !== undefined && this.#truth(wanted) < 0) {
        this.#core = this.#reasonsAgainst(wanted);
        return false;
      }
      const next = wanted ?? this.#nextDecision();
      if (next === NONE) return true;
      this.#starts.push(this.#trail.length);
      if (this.#truth(next) === 0) this.#assign(next, null);
    }
  }

  /** After a search without a solution: the assumed literals that exclude each other. */
  get core(): readonly number[] {
    return this.#core;
  }

  isTrue(variable: number): boolean {
    return this.#truth(2 * variable) > 0;
  }

  #truth(literal: number): number {
    return this.#truths[literal] ?? 0;
  }

  #watch(clause: number[]): void {
    this.#clausesOf[elementAt(clause, 0)]?.push(clause);
    this.#clausesOf[elementAt(clause, 1)]?.push(clause);
  }

  #assign(literal: number, reason: readonly number[] | null): void {
    const variable = literal >> 1;
    this.#truths[literal] = 1;
    this.#truths[literal ^ 1] = -1;
    this.#levels[variable] = this.#starts.length;
    this.#reasons[variable] = reason;
    this.#trail.push(literal);
    this.steps++;
  }

  /** Unit propagation; returns a conflicting clause, or null. */
  #propagate(): readonly number[] | null {
    while (this.#head < this.#trail.length) {
      const lost = elementAt(this.#trail, this.#head++) ^ 1;
      const watching = elementAt(this.#clausesOf, lost);
      let kept = 0;
      for (let at = 0; at < watching.length; at++) {
        const clause = elementAt(watching, at);
        if (clause[0] === lost) [clause[0], clause[1]] = [elementAt(clause, 1), lost];
        const other = elementAt(clause, 0);
        const instead = this.#truth(other) > 0 ? -1 : this.#unlost(clause);
        if (instead > 0) {
          [clause[1], clause[instead]] = [elementAt(clause, instead), lost];
          this.#clausesOf[clause[1]]?.push(clause);
          continue;
        }
        watching[kept++] = clause;
        if (this.#truth(other) > 0) continue;
        if (this.#truth(other) < 0) {
          for (at++; at < watching.length; at++) watching[kept++] = elementAt(watching, at);
          watching.length = kept;
          return clause;
        }
        this.#assign(other, clause);
      }
      watching.length = kept;
    }
    return null;
  }

  /** The index of an unwatched literal that is not false, or -1. */
  #unlost(clause: readonly number[]): number {
    for (let place = 2; place < clause.length; place++) if (this.#truth(elementAt(clause, place)) >= 0) return place;
    return -1;
  }

  /** Learns a clause at the first unique implication point of a conflict. */
  #learn(conflict: readonly number[]): void {
    const level = this.#starts.length;
    const seen = new Set<number>();
    const learned: number[] = [];
    let open = 0;
    let reason: readonly number[] | null = conflict;
    let place = this.#trail.length;
    let asserted = -1;
    do {
      for (const literal of reason ?? []) {
        const variable = literal >> 1;
        if (seen.has(variable) || this.#levels[variable] === 0 || literal === asserted) continue;
        seen.add(variable);
        this.#order.weigh(variable, this.#step);
        if (this.#levels[variable] === level) open++;
        else learned.push(literal);
      }
      do place--;
      while (
        !seen.has(elementAt(this.#trail, place) >> 1) ||
        this.#levels[elementAt(this.#trail, place) >> 1] !== level
      );
      asserted = elementAt(this.#trail, place);
      reason = elementAt(this.#reasons, asserted >> 1);
      seen.delete(asserted >> 1);
      open--;
    } while (open > 0);
    this.#step *= 1.05;
    if (this.#step > 1e100) {
      this.#order.scale(1e-100);
      this.#step *= 1e-100;
    }
    learned.sort((a, b) => elementAt(this.#levels, b >> 1) - elementAt(this.#levels, a >> 1));
    const clause = [asserted ^ 1, ...learned];
    this.#backTo(learned.length > 0 ? elementAt(this.#levels, elementAt(learned, 0) >> 1) : 0);
    if (clause.length > 1) this.#watch(clause);
    this.#assign(asserted ^ 1, clause.length > 1 ? clause : null);
  }

  /** The assumed literals from which it follows that one of them is false; with that one. */
  #reasonsAgainst(wanted: number): number[] {
    const core = [wanted];
    const seen = new Set([wanted >> 1]);
    const first = this.#starts[0] ?? this.#trail.length;
    for (let place = this.#trail.length - 1; place >= first; place--) {
      const literal = elementAt(this.#trail, place);
      if (!seen.has(literal >> 1)) continue;
      const reason = elementAt(this.#reasons, literal >> 1);
      // All decisions so far are assumed literals.
      if (reason === null) core.push(literal);
      else for (const one of reason) if (this.#levels[one >> 1] !== 0) seen.add(one >> 1);
    }
    return core;
  }

  #backTo(level: number): void {
    if (this.#starts.length <= level) return;
    const from = elementAt(this.#starts, level);
    for (let at = this.#trail.length - 1; at >= from; at--) {
      const literal = elementAt(this.#trail, at);
      this.#phase[literal >> 1] = (literal & 1) === 0;
      this.#truths[literal] = 0;
      this.#truths[literal ^ 1] = 0;
      this.#order.put(literal >> 1);
    }
    this.#trail.length = from;
    this.#starts.length = level;
    this.#head = Math.min(this.#head, from);
  }

  /** The variable with the highest activity, with the last phase. */
  #nextDecision(): number {
    let next = this.#order.take();
    while (next >= 0 && this.#truth(2 * next) !== 0) next = this.#order.take();
    return next < 0 ? NONE : 2 * next + (this.#phase[next] ? 0 : 1);
  }
}

const NONE = -1;
