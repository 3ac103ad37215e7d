import { elementAt } from '../../text/lookup';
/**
 * Boolean formulas over numbered atoms, hash-consed: equal formulas are the same number. A formula is twice the number
 * of the formula's node, plus one for the negation.
 */
export type Formula = number;

export const TRUE: Formula = 0;
export const FALSE: Formula = 1;

export const not = (formula: Formula): Formula => formula ^ 1;

type Node = { readonly atom: number } | Conjunction;

interface Conjunction {
  /** The members: at least two, distinct, in ascending order; empty for the constant true. */
  readonly and: readonly Formula[];
}

export class Formulas {
  /** Node 0 is the empty conjunction, which is true. */
  readonly #nodes: Node[] = [{ and: [] }];
  readonly #atoms = new Map<number, Formula>();
  /** The members of all conjunctions together: the measure of memory. */
  members = 0;
  /** Nodes of conjunctions by the hash of their members. */
  readonly #ands = new Map<number, number[]>();

  atom(atom: number): Formula {
    const known = this.#atoms.get(atom);
    if (known !== undefined) return known;
    const formula = 2 * (this.#nodes.push({ atom }) - 1);
    this.#atoms.set(atom, formula);
    return formula;
  }

  /** Nested conjunctions are flattened, so that a set of conditions is the same formula in any order. */
  and(...parts: readonly Formula[]): Formula {
    let longest: readonly Formula[] = [];
    const others: Formula[] = [];
    for (const part of parts) {
      if (part === FALSE) return FALSE;
      const node = elementAt(this.#nodes, part >> 1);
      const inner = (part & 1) === 0 && 'and' in node ? node.and : [part];
      const shorter = inner.length > longest.length ? longest : inner;
      if (shorter === longest) longest = inner;
      for (const member of shorter) others.push(member);
    }
    const and = merged(longest, others.sort(ascending));
    if (and === null) return FALSE;
    const [only] = and;
    if (only === undefined) return TRUE;
    if (and.length === 1) return only;
    const hash = hashOf(and);
    const alike = this.#ands.get(hash) ?? [];
    const known = alike.find((number) => {
      const node = elementAt(this.#nodes, number);
      return 'and' in node && isSameList(node.and, and);
    });
    if (known !== undefined) return 2 * known;
    const number = this.#nodes.push({ and }) - 1;
    this.members += and.length;
    alike.push(number);
    this.#ands.set(hash, alike);
    return 2 * number;
  }

  or(...parts: readonly Formula[]): Formula {
    return not(this.and(...parts.map(not)));
  }

  /** The formulas implied as members of this one. */
  conjuncts(formula: Formula): readonly Formula[] {
    const node = this.node(formula >> 1);
    return (formula & 1) === 0 && 'and' in node ? node.and : [formula];
  }

  /**
   * The exclusive or of two formulas. Common members of two conjunctions or two disjunctions are factored out first.
   */
  differ(a: Formula, b: Formula): Formula {
    if (a === b) return FALSE;
    if (a === not(b)) return TRUE;
    const [first, second] = [this.#members(a), this.#members(b)];
    const kept = first.filter((member) => second.includes(member));
    if ((a & 1) === (b & 1) && kept.length > 0) {
      const rest = (members: readonly Formula[]) => this.and(...members.filter((member) => !kept.includes(member)));
      return this.and(...kept, this.differ(rest(first), rest(second)));
    }
    return this.or(this.and(a, not(b)), this.and(not(a), b));
  }

  /** The truth of a formula, given the truth of the atoms; `known` caches nodes already evaluated. */
  holds(formula: Formula, atomHolds: (atom: number) => boolean, known = new Map<number, boolean>()): boolean {
    return this.#truth(formula >> 1, atomHolds, known, 0) === ((formula & 1) === 0);
  }

  #truth(number: number, atomHolds: (atom: number) => boolean, known: Map<number, boolean>, depth: number): boolean {
    const before = known.get(number);
    if (before !== undefined) return before;
    const node = elementAt(this.#nodes, number);
    if ('and' in node && depth === DEEP) {
      // With all subformulas known, no call goes deeper than one level.
      for (const inner of this.within(2 * number, known)) {
        if (inner !== number) this.#truth(inner, atomHolds, known, 0);
      }
    }
    const truth =
      'atom' in node
        ? atomHolds(node.atom)
        : node.and.every((part) => this.#truth(part >> 1, atomHolds, known, depth + 1) === ((part & 1) === 0));
    known.set(number, truth);
    return truth;
  }

  /**
   * The nodes of a formula and of all subformulas, subformulas first; `known` nodes are skipped with all their
   * subformulas. Iterative, because nesting may be deep.
   */
  within(formula: Formula, known: { has(node: number): boolean } = new Set()): number[] {
    const found = new Set<number>();
    const open = [formula >> 1];
    for (let number = open.pop(); number !== undefined; number = open.pop()) {
      if (found.has(number) || known.has(number)) continue;
      found.add(number);
      const node = elementAt(this.#nodes, number);
      if ('and' in node) for (const part of node.and) open.push(part >> 1);
    }
    // A formula is created after its subformulas.
    return [...found].sort((a, b) => a - b);
  }

  node(number: number): Node {
    return elementAt(this.#nodes, number);
  }

  #members(formula: Formula): readonly Formula[] {
    const node = this.node(formula >> 1);
    return 'and' in node ? node.and : [formula & ~1];
  }
}

/** Nesting beyond this is evaluated bottom up: calls must not go as deep as formulas. */
const DEEP = 200;

const ascending = (a: number, b: number): number => a - b;

/** The sorted union of two lists; null if one list holds the negation of a member of the other. */
function merged(a: readonly Formula[], b: readonly Formula[]): Formula[] | null {
  const all: Formula[] = [];
  let last = -1;
  let [inA, inB] = [0, 0];
  for (;;) {
    const [first, second] = [a[inA] ?? END, b[inB] ?? END];
    const next = Math.min(first, second);
    if (next === END) return all;
    if (first <= second) inA++;
    else inB++;
    if (next === last) continue;
    // A formula and the formula's negation are neighbours in the order.
    if (last >= 0 && next === not(last)) return null;
    all.push(next);
    last = next;
  }
}

/** After the last member of a list. */
const END = Number.POSITIVE_INFINITY;

function hashOf(members: readonly Formula[]): number {
  let hash = members.length;
  for (const member of members) hash = (Math.imul(hash, 31) + member) | 0;
  return hash;
}

const isSameList = (a: readonly Formula[], b: readonly Formula[]): boolean =>
  a.length === b.length && a.every((member, at) => member === b[at]);
