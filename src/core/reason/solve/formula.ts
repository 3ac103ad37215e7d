/**
 * Boolean formulas over numbered atoms, each kept once: formulas that are written alike are the same number. A formula is
 * twice the number of its node, and one more for its negation.
 */
export type Formula = number;

export const TRUE: Formula = 0;
export const FALSE: Formula = 1;

export const not = (formula: Formula): Formula => formula ^ 1;

type Node = { readonly atom: number } | { readonly and: readonly Formula[] };

export class Formulas {
  /** The first node is the empty conjunction, which is true. */
  readonly #nodes: Node[] = [{ and: [] }];
  readonly #atoms = new Map<number, Formula>();
  readonly #ands = new Map<string, Formula>();

  atom(atom: number): Formula {
    const known = this.#atoms.get(atom);
    if (known !== undefined) return known;
    const formula = 2 * (this.#nodes.push({ atom }) - 1);
    this.#atoms.set(atom, formula);
    return formula;
  }

  /** Conjunctions within are taken apart, so that what is a set of conditions is the same in any order. */
  and(...parts: readonly Formula[]): Formula {
    const members = new Set<Formula>();
    for (const part of parts) {
      const node = this.#nodes[part >> 1] as Node;
      if ((part & 1) === 0 && 'and' in node) for (const inner of node.and) members.add(inner);
      else if (part === FALSE) return FALSE;
      else members.add(part);
    }
    for (const member of members) if (members.has(not(member))) return FALSE;
    const [only] = members;
    if (only === undefined) return TRUE;
    if (members.size === 1) return only;
    const and = [...members].sort((a, b) => a - b);
    const key = and.join(' ');
    const known = this.#ands.get(key);
    if (known !== undefined) return known;
    const formula = 2 * (this.#nodes.push({ and }) - 1);
    this.#ands.set(key, formula);
    return formula;
  }

  or(...parts: readonly Formula[]): Formula {
    return not(this.and(...parts.map(not)));
  }

  /** Where two formulas differ. What both conjunctions or both disjunctions hold in common is taken out first. */
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

  /** The truth of a formula, given that of its atoms; `known` holds that of nodes that were looked at before. */
  holds(formula: Formula, atomHolds: (atom: number) => boolean, known = new Map<number, boolean>()): boolean {
    for (const number of this.within(formula, known)) {
      const node = this.#nodes[number] as Node;
      const truth =
        'atom' in node ? atomHolds(node.atom) : node.and.every((part) => known.get(part >> 1) === ((part & 1) === 0));
      known.set(number, truth);
    }
    return known.get(formula >> 1) === ((formula & 1) === 0);
  }

  /**
   * The nodes of a formula and of all formulas within it, those within before those around them; what is `known` is left
   * out, with all within it. Nesting may be deep, so nothing calls itself.
   */
  within(formula: Formula, known: { has(node: number): boolean } = new Set()): number[] {
    const found = new Set<number>();
    const open = [formula >> 1];
    for (let number = open.pop(); number !== undefined; number = open.pop()) {
      if (found.has(number) || known.has(number)) continue;
      found.add(number);
      const node = this.#nodes[number] as Node;
      if ('and' in node) for (const part of node.and) open.push(part >> 1);
    }
    // A formula is made after those within it.
    return [...found].sort((a, b) => a - b);
  }

  node(number: number): Node {
    return this.#nodes[number] as Node;
  }

  #members(formula: Formula): readonly Formula[] {
    const node = this.node(formula >> 1);
    return 'and' in node ? node.and : [formula & ~1];
  }
}
