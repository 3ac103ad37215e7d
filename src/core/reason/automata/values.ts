import { elementAt } from '../../text/lookup';
import { type Automaton, DEAD, Exploded, TOP } from './language';
import { isInName, type Move, SHAPES, type Shape, type ShapeName } from './shapes';

/** The part of a value that a test reads: the whole text, or the address (or a part of the address) of each mailbox. */
export type Part = 'text' | 'all' | 'localpart' | 'domain';

export interface ValueTest {
  readonly part: Part;
  readonly language: Automaton;
}

/** Asks for a value where some mailbox matches each language of `some`, and no mailbox matches a language of `none`. */
export interface ValueQuery {
  readonly shape: ShapeName;
  readonly some: readonly ValueTest[];
  readonly none: readonly ValueTest[];
  /** Values to try if none is asked for. */
  readonly natural?: readonly string[];
}

export interface Value {
  readonly text: string;
  /** Ranges of display names in the text: start inclusive, end exclusive. */
  readonly names: readonly (readonly [from: number, to: number])[];
  /** Whether addresses in the text are seen, or must not be. */
  readonly addresses?: 'seen' | 'hidden';
}

export type FoundValue = { readonly found: 'value'; readonly value: Value } | { readonly found: 'none' | 'gave up' };

/** The most states visited before the search gives up. */
export const VALUE_BUDGET = 30_000;

/** The average number of characters tried per visited state: keys may have thousands. */
const MOVES = 100;

/** The most mailbox tests that fit into one bit set. */
const MOST_SOME = 30;

/** A point of the search: how far a value has been read. */
interface Place {
  readonly state: number;
  /** The bit set of wanted tests that earlier mailboxes match. */
  readonly met: number;
  /** The states of all languages, those of `some` first. */
  readonly at: readonly number[];
  readonly before: Place | null;
  readonly character: string;
}

/**
 * A value that answers the query: a natural one if possible, else the shortest. `none`: proved that no value of the
 * shape does.
 */
export function findValue(query: ValueQuery, budget = VALUE_BUDGET): FoundValue {
  return guarded(query, () => maybeNatural(query) ?? new Product(query).shortest(budget));
}

/** The same, where only natural values are tried: null says nothing. */
export function maybeNaturalValue(query: ValueQuery): FoundValue | null {
  return guarded(query, () => maybeNatural(query));
}

function guarded<T>(query: ValueQuery, search: () => T): T | { readonly found: 'gave up' } {
  if (query.some.length > MOST_SOME) return { found: 'gave up' };
  try {
    return search();
  } catch (error) {
    if (error instanceof Exploded) return { found: 'gave up' };
    throw error;
  }
}

function maybeNatural(query: ValueQuery): FoundValue | null {
  const isAddressed = query.shape === 'addressed' || query.shape === 'addressed once';
  // In a natural text only a well-formed reading counts: any word of it could be an address.
  const shape = isAddressed ? 'mailboxes' : query.shape;
  const natural = new Product({ ...query, shape });
  for (const text of likely(query)) {
    const place = natural.follow(text);
    if (place) return { found: 'value', value: valueAt(shape, place) };
  }
  return null;
}

/** The product automaton of a shape and all languages of a query, explored on demand. */
class Product {
  readonly #query: ValueQuery;
  readonly #shape: CompiledShape;
  readonly #languages: readonly Automaton[];
  /** By test: the bit of the part that it reads. */
  readonly #parts: readonly number[];
  readonly #starts: readonly number[];
  readonly #wanted: number;
  /** The bit set of wanted tests that mailboxes have to match. */
  readonly #all: number;
  readonly #first: Place;
  /** The next states of all languages, before it is known whether they are new. */
  readonly #next: number[];

  constructor(query: ValueQuery) {
    const { shape, some, none } = query;
    const tests = [...some, ...none];
    this.#query = query;
    this.#shape = CompiledShape.of(shape);
    this.#languages = tests.map(({ language }) => language);
    this.#parts = tests.map(({ part }) => PART_BITS[part]);
    this.#starts = tests.map(({ language }) => language.start);
    this.#wanted = some.length;
    this.#all = some.reduce((bits, { part }, index) => (part === 'text' ? bits : bits | (1 << index)), 0);
    this.#first = { state: this.#shape.start, met: 0, at: this.#starts, before: null, character: '' };
    this.#next = new Array<number>(tests.length).fill(0);
  }

  /** The final state for a text, if the text answers the query. */
  follow(text: string): Place | null {
    let places: readonly Place[] = [this.#first];
    for (const character of text) {
      // What one place leads to is hardly ever the same twice.
      const seen = places.length > 1 ? new Tuples() : null;
      const next: Place[] = [];
      for (const place of places) this.#expand(place, character, seen, next);
      places = next;
    }
    return places.find((place) => this.#isDone(place)) ?? null;
  }

  /** Breadth-first search: the first value found is the shortest. */
  shortest(budget: number): FoundValue {
    const { shape, some, none } = this.#query;
    const symbols = symbolsFor(shape, [...some, ...none]);
    const seen = new Tuples();
    seen.add(this.#first.state, this.#first.met, this.#first.at);
    if (this.#isDone(this.#first)) return { found: 'value', value: EMPTY };
    let layer: Place[] = [this.#first];
    let moves = budget * MOVES;
    while (layer.length > 0) {
      const next: Place[] = [];
      for (const place of layer) {
        for (const character of symbols) {
          if (--moves < 0) return { found: 'gave up' };
          const from = next.length;
          this.#expand(place, character, seen, next);
          for (let index = from; index < next.length; index++) {
            const to = elementAt(next, index);
            if (this.#isDone(to)) return { found: 'value', value: valueAt(shape, to) };
          }
          if (seen.size > budget) return { found: 'gave up' };
        }
      }
      layer = next;
    }
    return { found: 'none' };
  }

  /** Adds the places after one more character that were not seen yet. */
  #expand(place: Place, character: string, seen: Tuples | null, into: Place[]): void {
    for (const move of this.#shape.moves(place.state, character)) {
      const met = this.#moved(place, character, move);
      if (met < 0 || seen?.add(move.to, met, this.#next) === false) continue;
      into.push({ state: move.to, met, at: this.#next.slice(), before: place, character });
    }
  }

  /** Writes the next states of all languages to `#next`; returns the tests met so far, or -1 for a dead end. */
  #moved({ met: before, at }: Place, character: string, { reads, mailbox }: CompiledMove): number {
    let met = before;
    if (mailbox === 'ended' || mailbox === 'ended without domain') {
      met = this.#closed(met, at, mailbox === 'ended');
      if (met < 0) return -1;
    }
    const isFresh = mailbox !== undefined;
    for (let index = 0; index < this.#parts.length; index++) {
      const part = elementAt(this.#parts, index);
      const state = elementAt(isFresh && part !== TEXT_BIT ? this.#starts : at, index);
      if ((part & reads) === 0) {
        this.#next[index] = state;
        continue;
      }
      const to = elementAt(this.#languages, index).step(state, character);
      this.#next[index] = to;
      // The text, or the mailbox, can no longer match a wanted test, or can no longer avoid a forbidden one.
      if (index >= this.#wanted ? to === TOP : to === DEAD && (part === TEXT_BIT || this.#shape.single)) return -1;
    }
    return met;
  }

  /**
   * Closes a mailbox and returns which wanted tests any mailbox matched so far; -1 if the mailbox matches a forbidden
   * language. An address without a domain matches no test of the domain.
   */
  #closed(met: number, at: readonly number[], hasDomain: boolean): number {
    let bits = met;
    for (let index = 0; index < this.#parts.length; index++) {
      const part = elementAt(this.#parts, index);
      if (part === TEXT_BIT || (part === PART_BITS.domain && !hasDomain)) continue;
      if (!elementAt(this.#languages, index).accepting(elementAt(at, index))) continue;
      if (index >= this.#wanted) return -1;
      bits |= 1 << index;
    }
    return bits;
  }

  #isDone({ state, met, at }: Place): boolean {
    const ends = this.#shape.ends(state);
    if (ends === 'no') return false;
    const bits = ends === 'closed' ? met : this.#closed(met, at, ends === 'open');
    if (bits < 0 || (bits & this.#all) !== this.#all) return false;
    for (let index = 0; index < this.#parts.length; index++) {
      if (elementAt(this.#parts, index) !== TEXT_BIT) continue;
      const isMet = elementAt(this.#languages, index).accepting(elementAt(at, index));
      if (isMet !== index < this.#wanted) return false;
    }
    return true;
  }
}

const TEXT_BIT = 1;
const PART_BITS: Readonly<Record<Part, number>> = { text: TEXT_BIT, all: 2, localpart: 4, domain: 8 };
/** The parts to which a character of a move belongs. */
const READ_BITS: Readonly<Record<Move['reads'], number>> = { nothing: 1, address: 3, local: 7, domain: 11 };

interface CompiledMove extends Pick<Move, 'mailbox'> {
  readonly to: number;
  readonly reads: number;
}

/** A shape with numbered states and cached transitions. */
class CompiledShape {
  static readonly #known = new Map<ShapeName, CompiledShape>();
  readonly #names: string[] = [];
  readonly #numbers = new Map<string, number>();
  readonly #moves: Map<string, readonly CompiledMove[]>[] = [];
  readonly start: number;
  readonly single: boolean;

  constructor(readonly shape: Shape) {
    this.start = this.#number(shape.start);
    this.single = shape.single;
  }

  static of(name: ShapeName): CompiledShape {
    const known = CompiledShape.#known.get(name) ?? new CompiledShape(SHAPES[name]);
    CompiledShape.#known.set(name, known);
    return known;
  }

  nameOf(state: number): string {
    return elementAt(this.#names, state);
  }

  moves(state: number, character: string): readonly CompiledMove[] {
    const moves = elementAt(this.#moves, state);
    const known = moves.get(character);
    if (known) return known;
    const found = this.shape.moves(this.nameOf(state), character).map(({ to, reads, ...rest }) => {
      return { ...rest, to: this.#number(to), reads: READ_BITS[reads] };
    });
    if (moves.size < MOST_CACHED) moves.set(character, found);
    return found;
  }

  ends(state: number): ReturnType<Shape['ends']> {
    return this.shape.ends(this.nameOf(state));
  }

  #number(name: string): number {
    const known = this.#numbers.get(name);
    if (known !== undefined) return known;
    const number = this.#names.push(name) - 1;
    this.#numbers.set(name, number);
    this.#moves.push(new Map());
    return number;
  }
}

/** Characters whose transitions are cached for each state of a shape. */
const MOST_CACHED = 2000;

/** A set of tuples of small numbers, as a trie: each prefix has a number. */
class Tuples {
  readonly #prefixes = new Map<number, number>();
  size = 0;

  /** Whether the tuple is new. */
  add(state: number, met: number, at: readonly number[]): boolean {
    let prefix = this.#after(state, met);
    for (let index = 0; index < at.length - 1; index++) prefix = this.#after(prefix, elementAt(at, index));
    const key = prefix * WIDTH + (at.at(-1) ?? 0);
    if (this.#prefixes.has(key)) return false;
    this.#prefixes.set(key, this.#prefixes.size);
    this.size++;
    return true;
  }

  #after(prefix: number, next: number): number {
    const key = prefix * WIDTH + next;
    const known = this.#prefixes.get(key);
    if (known !== undefined) return known;
    const number = this.#prefixes.size + FIRST;
    this.#prefixes.set(key, number);
    return number;
  }
}

/** Above all states and bit sets of tests. */
const WIDTH = 2 ** 31;
/** Above all states of shapes, which begin a tuple. */
const FIRST = 1000;

/** People who write if nothing is asked for, or if a forbidden test speaks of the first. */
const WRITERS = [
  ['Ann Lee', 'ann.lee'],
  ['Tom Reed', 'tom.reed'],
] as const;

/** Natural values composed of the wanted words: of the first word of each test, then of the others. */
function likely({ shape, some, natural = [] }: ValueQuery): readonly string[] {
  if (some.length === 0 && natural.length > 0) return natural;
  const samples = some.map(({ language }) => language.samples());
  const most = Math.max(1, ...samples.map(({ length }) => length));
  const found = Array.from({ length: most }, (_, choice) => {
    const words = (part: Part) =>
      some.flatMap((one, index) => (one.part === part ? [samples[index]?.[choice] ?? samples[index]?.[0] ?? ''] : []));
    return likelyWith(shape, words);
  });
  return [...new Set(found.flat())];
}

function likelyWith(shape: ShapeName, words: (part: Part) => string[]): readonly string[] {
  const texts = words('text');
  const spoken = texts.join(' ').trim();
  if (TEXT_SHAPES.has(shape)) return [spoken, ...texts];
  // A word sought in the whole field may be an address.
  const inWords = spoken.includes('@')
    ? [spoken, `ann.lee${spoken}`, `${spoken}people.example`, `Ann Lee <${spoken}>`]
    : [];
  return WRITERS.flatMap(([name, writer], at) => {
    const local = words('localpart')[0] || writer;
    const domain = words('domain')[0] || 'people.example';
    const address = words('all')[0] || `${local}@${domain}`;
    const addresses = [
      address,
      `${address}.example`,
      `${writer}@${address}`,
      `${writer}@${address}.example`,
      `${address}@${domain}`,
    ];
    if (shape === 'path' || shape === 'address') return addresses;
    const named = addresses.map((one) => `${spoken || name} <${one}>`);
    return [...(at === 0 ? inWords : []), ...named, ...addresses];
  });
}

export const EMPTY: Value = { text: '', names: [] };

function valueAt(shape: ShapeName, last: Place): Value {
  const places: Place[] = [];
  for (let place: Place | null = last; place?.before; place = place.before) places.push(place);
  let text = '';
  const names: [number, number][] = [];
  for (const { character, state } of places.reverse()) {
    const name = names.at(-1);
    const [from, to] = [text.length, text.length + character.length];
    if (isInName(CompiledShape.of(shape).nameOf(state))) {
      if (name?.[1] === from) name[1] = to;
      else names.push([from, to]);
    }
    text += character;
  }
  return TEXT_SHAPES.has(shape) ? { text, names } : { text, names, addresses: 'seen' };
}

/** Shapes of values that have no addresses. */
const TEXT_SHAPES: ReadonlySet<ShapeName> = new Set(['text', 'lines', 'any text']);

/** Characters that shapes distinguish, tried first so that values look natural. */
const STRUCTURE = [...' -.@<>,":;[](\\'];
/** Representatives of all characters that no language names: the first unused one of each range. */
const ORDINARY: readonly (() => Iterable<string>)[] = [
  () => "aeionrstlmdhcupgbfkvwyjxzq0123456789!#$%&'*+/=?^_`{|}~",
  () => '0123456789',
  // i;unicode-casemap decomposes none of these characters, so none contains a letter of a key.
  () => charactersFrom(0x4d8, 0x4d9, 0xf8, 0xfe, [0x531, 0x556], [0x430, 0x438]),
  () => charactersFrom([0x4e00, 0x9fff]),
  () => charactersFrom([0x1f600, 0x1f64f], [0x20000, 0x2a6df]),
];

function* charactersFrom(...ranges: (number | readonly [from: number, to: number])[]): Generator<string> {
  for (const range of ranges) {
    const [from, to] = typeof range === 'number' ? [range, range] : range;
    for (let code = from; code <= to; code++) yield String.fromCodePoint(code);
  }
}

/** What well-formed values do not contain, and blanks that are no part of an atom: one character of each length. */
const LOOSE = ['\u0001', '\u00a0', '\u3000'];
const LOOSE_SHAPES: ReadonlySet<ShapeName> = new Set(['any text', 'address', 'addressed', 'addressed once']);

/** One character per class that the tests or the shape distinguish. */
function symbolsFor(shape: ShapeName, tests: readonly ValueTest[]): string[] {
  const letters = new Set(tests.flatMap(({ language }) => [...language.letters]));
  const ordinary = ORDINARY.flatMap((kind) => {
    for (const character of kind()) if (!letters.has(character)) return [character];
    return [];
  });
  const natural = (character: string) => (/[a-z]/.test(character) ? 0 : /[0-9]/.test(character) ? 1 : 2);
  const odd = LOOSE_SHAPES.has(shape) ? LOOSE : [];
  return [...new Set([...letters, ...ordinary, ...STRUCTURE, ...odd])].sort((a, b) => natural(a) - natural(b));
}
