/**
 * Sets of texts as deterministic automata, whose states are made when they are first reached. A text is read octet by octet
 * after folding, so that a wildcard for one octet means what it means to a matcher.
 */

/** One thing that a pattern asks for: an octet, any octet, or any number of octets. */
export type Item = number | 'any' | 'star';

/** How single characters are made comparable before they are read. */
export interface Folding {
  readonly name: string;
  readonly fold: (character: string) => string;
}

/** A node of the tree of all patterns: those that begin alike share their nodes. */
interface Node {
  readonly children: Map<number, Node>;
  any: Node | null;
  /** Where a star leads without taking anything; that node stays as long as it likes. */
  star: Node | null;
  readonly loops: boolean;
  accepts: boolean;
  readonly number: number;
}

/** A set of texts that is read character by character. */
export interface Automaton {
  /** Characters that lead to other states than an ordinary character does. */
  readonly letters: ReadonlySet<string>;
  readonly start: number;
  readonly accepting: (state: number) => boolean;
  /** The state behind one more character; throws `Exploded` where there would be too many of them. */
  readonly step: (state: number, character: string) => number;
  readonly has: (text: string) => boolean;
  /** Some of its texts, as short as may be. */
  readonly samples: () => string[];
  /** What it may be joined with to one automaton; null where with nothing. */
  readonly family: string | null;
}

/** An automaton has more states than are made. */
export class Exploded extends Error {}

/** No further octet leads to acceptance. */
export const DEAD = 0;
/** Every continuation is accepted. */
export const TOP = 1;

const UNKNOWN = -1;

export class Language implements Automaton {
  /** Characters that lead to other states than an ordinary character does. */
  readonly letters: ReadonlySet<string>;
  readonly #sets: (readonly Node[])[] = [[], []];
  readonly #accepting: boolean[] = [false, true];
  readonly #next: Int32Array[] = [new Int32Array(256).fill(DEAD), new Int32Array(256).fill(TOP)];
  readonly #known = new Map<string, number>();
  /** By character and state, what was stepped to before. */
  readonly #steps = new Map<string, number[]>();
  readonly start: number;

  /** All texts that meet one of the patterns; `letters` are the characters that their octets stand for. */
  constructor(
    readonly folding: Folding,
    readonly patterns: readonly (readonly Item[])[],
    letters: Iterable<string>,
  ) {
    this.letters = new Set(letters);
    let count = 0;
    const node = (loops: boolean): Node => {
      return { children: new Map(), any: null, star: null, loops, accepts: false, number: count++ };
    };
    const behind = (at: Node, item: Item): Node => {
      if (item === 'star') {
        if (at.loops) return at;
        at.star ??= node(true);
        return at.star;
      }
      if (item === 'any') {
        at.any ??= node(false);
        return at.any;
      }
      const next = at.children.get(item) ?? node(false);
      at.children.set(item, next);
      return next;
    };
    const root = node(false);
    for (const pattern of patterns) {
      let at = root;
      for (const item of pattern) at = behind(at, item);
      at.accepts = true;
    }
    this.start = this.#state([root]);
  }

  get family(): string {
    return this.folding.name;
  }

  /** Some text of each of the first patterns, without what its stars may stand for. */
  samples(): string[] {
    return this.patterns.slice(0, SAMPLES).map((pattern) => {
      const octets = pattern.flatMap((item) => (item === 'star' ? [] : item === 'any' ? [120] : [item]));
      return new TextDecoder().decode(Uint8Array.from(octets));
    });
  }

  accepting(state: number): boolean {
    return this.#accepting[state] as boolean;
  }

  /** The state behind one more character. */
  step(state: number, character: string): number {
    if (state <= TOP) return state;
    let steps = this.#steps.get(character);
    if (!steps) {
      steps = [];
      this.#steps.set(character, steps);
    }
    const known = steps[state];
    if (known !== undefined) return known;
    let at = state;
    for (const octet of encoder.encode(this.folding.fold(character))) {
      if (at <= TOP) break;
      at = this.#octetStep(at, octet);
    }
    steps[state] = at;
    return at;
  }

  has(text: string): boolean {
    let at = this.start;
    for (const character of text) at = this.step(at, character);
    return this.accepting(at);
  }

  #octetStep(state: number, octet: number): number {
    const row = this.#next[state] as Int32Array;
    const known = row[octet] as number;
    if (known !== UNKNOWN) return known;
    const found: Node[] = [];
    for (const node of this.#sets[state] as readonly Node[]) {
      if (node.loops) found.push(node);
      const child = node.children.get(octet);
      if (child) found.push(child);
      if (node.any) found.push(node.any);
    }
    const next = this.#state(found);
    row[octet] = next;
    return next;
  }

  #state(nodes: readonly Node[]): number {
    const closed = new Map<number, Node>();
    for (const node of nodes) {
      closed.set(node.number, node);
      if (node.star) closed.set(node.star.number, node.star);
    }
    if (closed.size === 0) return DEAD;
    const set = [...closed.values()].sort((a, b) => a.number - b.number);
    if (set.some(({ loops, accepts }) => loops && accepts)) return TOP;
    const key = set.map(({ number }) => number).join(' ');
    const known = this.#known.get(key);
    if (known !== undefined) return known;
    const state = this.#sets.push(set) - 1;
    this.#accepting.push(set.some(({ accepts }) => accepts));
    this.#next.push(new Int32Array(256).fill(UNKNOWN));
    this.#known.set(key, state);
    return state;
  }
}

/** The texts of any of several automata of one family. */
export function union(automata: readonly Automaton[]): Automaton {
  const [first] = automata;
  const languages = automata.flatMap((one) => (one instanceof Language ? [one] : []));
  if (automata.length === 1 && first) return first;
  const [language] = languages;
  if (!language || languages.some(({ family }) => family !== language.family) || languages.length < automata.length) {
    throw new Error('automata of several families');
  }
  const patterns = languages.flatMap((one) => one.patterns);
  return new Language(language.folding, patterns, new Set(languages.flatMap(({ letters }) => [...letters])));
}

const SAMPLES = 3;

const encoder = new TextEncoder();
