import { elementAt } from '../../text/lookup';
/**
 * Sets of texts as deterministic automata, whose states are created when first reached. Texts are read octet by octet
 * after folding, so that a wildcard for one octet means the same as for a matcher.
 */

/** One item of a pattern: an octet, any octet, or any number of octets. */
export type Item = number | 'any' | 'star';

/** How single characters are folded before comparison. */
export interface Folding {
  readonly name: string;
  readonly fold: (character: string) => string;
}

/** A node of the trie of all patterns. Its children are computed on first use: keys nothing walks cost nothing. */
class Node {
  readonly #children = new Map<number, Node>();
  #any: Node | null = null;
  #star: Node | null = null;
  #accepts = false;
  #isKnown = false;

  /** All `members` are patterns that share their first `depth` items. */
  constructor(
    readonly numbers: Numbers,
    readonly members: readonly (readonly Item[])[],
    readonly depth: number,
    /** Whether a star precedes this node, so that any octet leads back here. */
    readonly loops: boolean,
    readonly number = numbers.next++,
  ) {}

  child(octet: number): Node | undefined {
    this.#look();
    return this.#children.get(octet);
  }

  get any(): Node | null {
    this.#look();
    return this.#any;
  }

  /** The node after a star, reached without consuming an octet. */
  get star(): Node | null {
    this.#look();
    return this.#star;
  }

  get accepts(): boolean {
    this.#look();
    return this.#accepts;
  }

  #look(): void {
    if (this.#isKnown) return;
    this.#isKnown = true;
    const behind = new Map<Item, (readonly Item[])[]>();
    for (const pattern of this.members) {
      let at = this.depth;
      // A star directly after a star adds nothing. Members longer than this depth end here with a star.
      while (this.loops && pattern[at] === 'star') at++;
      const item = pattern[at];
      if (item === undefined) this.#accepts = true;
      else {
        const rest = at === this.depth ? pattern : [...pattern.slice(0, this.depth), ...pattern.slice(at)];
        const list = behind.get(item);
        if (list) list.push(rest);
        else behind.set(item, [rest]);
      }
    }
    for (const [item, members] of behind) {
      const node = new Node(this.numbers, members, this.depth + 1, item === 'star');
      if (item === 'star') this.#star = node;
      else if (item === 'any') this.#any = node;
      else this.#children.set(item, node);
    }
  }
}

interface Numbers {
  next: number;
}

/** A set of texts, read character by character. */
export interface Automaton {
  /** Characters with transitions other than the default one. */
  readonly letters: ReadonlySet<string>;
  readonly start: number;
  readonly accepting: (state: number) => boolean;
  /** The state after one more character. Throws `Exploded` beyond the limit of states. */
  readonly step: (state: number, character: string) => number;
  readonly has: (text: string) => boolean;
  /** Some texts of the set, as short as possible. */
  readonly samples: () => readonly string[];
  /** Automata with equal keys can be merged; null if this one cannot. */
  readonly family: string | null;
}

/** Thrown when the limit of states is reached. */
export class Exploded extends Error {}

/** A dead state: no continuation is accepted. */
export const DEAD = 0;
/** A universal state: every continuation is accepted. */
export const TOP = 1;

const UNKNOWN = -1;
/** Transitions per state: one for each octet. */
const ROW = 256;
/** The limit of nodes and cells: 16,000 plain states, whose numbers fit in 16 bits, or fewer large sets. */
const MOST = 4_000_000;
/** The number of states for which there is room at first. */
const FEW = 8;

export class Language implements Automaton {
  /** Characters whose transition differs from the default one. */
  readonly letters: ReadonlySet<string>;
  readonly #sets: (readonly Node[])[] = [[], []];
  readonly #accepting: boolean[] = [false, true];
  /** The next state by state and octet, one row after the other: thousands of small arrays would take longer to make. */
  #next = new Int16Array(FEW * ROW).fill(UNKNOWN);
  readonly #known = new Map<string, number>();
  /** Cached transitions by character outside US-ASCII and state. */
  readonly #steps = new Map<string, number[]>();
  /** By character of US-ASCII: the octet it folds to. */
  readonly #octets: Int16Array;
  /** Nodes and cells of all states together, counted against the limit. */
  #size = 0;
  #samples: readonly string[] | null = null;
  readonly start: number;

  /** All texts that match one of the patterns; `letters` lists the characters of which the patterns are made. */
  constructor(
    readonly folding: Folding,
    readonly patterns: readonly (readonly Item[])[],
    letters: Iterable<string>,
  ) {
    this.letters = new Set(letters);
    this.#octets = octetsOf(folding);
    this.start = this.#state([new Node({ next: 0 }, patterns, 0, false)]);
  }

  get family(): string {
    return this.folding.name;
  }

  /** One text for each of the first patterns, with every star empty. */
  samples(): readonly string[] {
    this.#samples ??= this.patterns.slice(0, SAMPLES).map((pattern) => {
      const octets = pattern.flatMap((item) => (item === 'star' ? [] : item === 'any' ? [120] : [item]));
      return new TextDecoder().decode(Uint8Array.from(octets));
    });
    return this.#samples;
  }

  accepting(state: number): boolean {
    return elementAt(this.#accepting, state);
  }

  /** The state after one more character. */
  step(state: number, character: string): number {
    if (state <= TOP) return state;
    const octet = this.#octets[character.charCodeAt(0)] ?? NONE;
    return octet === NONE ? this.#slowStep(state, character) : this.#octetStep(state, octet);
  }

  #slowStep(state: number, character: string): number {
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
    for (let index = 0; index < text.length; index++) {
      if (at <= TOP) return at === TOP;
      const octet = this.#octets[text.charCodeAt(index)] ?? NONE;
      if (octet !== NONE) at = this.#octetStep(at, octet);
      else {
        const character = String.fromCodePoint(text.codePointAt(index) ?? 0);
        at = this.#slowStep(at, character);
        index += character.length - 1;
      }
    }
    return this.accepting(at);
  }

  #octetStep(state: number, octet: number): number {
    // Read directly: this is the innermost loop.
    const known = this.#next[state * ROW + octet] ?? UNKNOWN;
    if (known !== UNKNOWN) return known;
    if (state <= TOP) return state;
    const found: Node[] = [];
    for (const node of elementAt(this.#sets, state)) {
      if (node.loops) found.push(node);
      const child = node.child(octet);
      if (child) found.push(child);
      if (node.any) found.push(node.any);
    }
    const next = this.#state(found);
    this.#next[state * ROW + octet] = next;
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
    this.#size += set.length + ROW;
    if (this.#size > MOST) throw new Exploded('too many states');
    const state = this.#sets.push(set) - 1;
    this.#accepting.push(set.some(({ accepts }) => accepts));
    if (this.#next.length < (state + 1) * ROW) this.#grow();
    this.#known.set(key, state);
    return state;
  }

  #grow(): void {
    const before = this.#next;
    this.#next = new Int16Array(2 * before.length);
    this.#next.set(before);
    this.#next.fill(UNKNOWN, before.length);
  }
}

const SAMPLES = 3;

const NONE = -1;
const tables = new Map<Folding['fold'], Int16Array>();

/** The octets to which the characters of US-ASCII fold; -1 for one that does not fold to a single octet. */
export function octetsOf({ fold }: Folding): Int16Array {
  const known = tables.get(fold);
  if (known) return known;
  const table = Int16Array.from({ length: 128 }, (_, code) => {
    const [octet, ...more] = encoder.encode(fold(String.fromCharCode(code)));
    return octet === undefined || more.length > 0 ? NONE : octet;
  });
  tables.set(fold, table);
  return table;
}

const encoder = new TextEncoder();
