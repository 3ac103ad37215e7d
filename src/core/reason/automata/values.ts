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
}

export interface Value {
  readonly text: string;
  /** Ranges of display names in the text: start inclusive, end exclusive. */
  readonly names: readonly (readonly [from: number, to: number])[];
}

export type FoundValue = { readonly found: 'value'; readonly value: Value } | { readonly found: 'none' | 'gave up' };

/** The most states visited before the search gives up. */
export const VALUE_BUDGET = 30_000;

/** The average number of characters tried per visited state: keys may have thousands. */
const MOVES = 100;

/** The most mailbox tests that fit into one bit set. */
const MOST_SOME = 30;

interface Place {
  readonly state: string;
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
  if (query.some.length > MOST_SOME) return { found: 'gave up' };
  try {
    const product = new Product(query);
    for (const text of likely(query)) {
      const place = product.follow(text);
      if (place) return { found: 'value', value: valueAt(place) };
    }
    return product.shortest(budget);
  } catch (error) {
    if (error instanceof Exploded) return { found: 'gave up' };
    throw error;
  }
}

/** The product automaton of a shape and all languages of a query, explored on demand. */
class Product {
  readonly #shape: Shape;
  readonly #tests: readonly ValueTest[];
  readonly #wanted: number;
  /** The bit set of wanted tests that mailboxes have to match. */
  readonly #all: number;
  readonly #first: Place;
  /** Whether the value has exactly one mailbox. */
  readonly #single: boolean;

  constructor({ shape, some, none }: ValueQuery) {
    this.#shape = SHAPES[shape];
    this.#single = shape === 'mailbox' || shape === 'path';
    this.#tests = [...some, ...none];
    this.#wanted = some.length;
    this.#all = some.reduce((bits, { part }, index) => (part === 'text' ? bits : bits | (1 << index)), 0);
    const at = this.#tests.map(({ language }) => language.start);
    this.#first = { state: this.#shape.start, met: 0, at, before: null, character: '' };
  }

  /** The final state for a text, if the text answers the query. */
  follow(text: string): Place | null {
    let places: readonly Place[] = [this.#first];
    for (const character of text) places = places.flatMap((place) => [...this.#behind(place, character)]);
    return places.find((place) => this.#isDone(place)) ?? null;
  }

  /** Breadth-first search: the first value found is the shortest. */
  shortest(budget: number): FoundValue {
    const symbols = symbolsFor(this.#tests);
    const seen = new Set<string>([keyOf(this.#first)]);
    if (this.#isDone(this.#first)) return { found: 'value', value: EMPTY };
    let layer: Place[] = [this.#first];
    let moves = budget * MOVES;
    while (layer.length > 0) {
      const next: Place[] = [];
      for (const place of layer) {
        for (const character of symbols) {
          if (--moves < 0) return { found: 'gave up' };
          for (const to of this.#behind(place, character)) {
            const key = keyOf(to);
            if (seen.has(key)) continue;
            if (this.#isDone(to)) return { found: 'value', value: valueAt(to) };
            if (seen.add(key).size > budget) return { found: 'gave up' };
            next.push(to);
          }
        }
      }
      layer = next;
    }
    return { found: 'none' };
  }

  *#behind(place: Place, character: string): Generator<Place> {
    for (const move of this.#shape.moves(place.state, character)) {
      const to = this.#moved(place, character, move);
      if (to) yield to;
    }
  }

  #moved(place: Place, character: string, move: Move): Place | null {
    let { met, at } = place;
    if (move.mailbox === 'ended') {
      const bits = this.#closed(met, at);
      if (bits === null) return null;
      met = bits;
    }
    if (move.mailbox) {
      at = at.map((state, index) => {
        const { part, language } = elementAt(this.#tests, index);
        return part === 'text' ? state : language.start;
      });
    }
    const next = new Array<number>(this.#tests.length);
    for (let index = 0; index < this.#tests.length; index++) {
      const { part, language } = elementAt(this.#tests, index);
      const state = elementAt(at, index);
      next[index] = reads(part, move.reads) ? language.step(state, character) : state;
      // With a single mailbox, a wanted test that the mailbox can no longer match fails the whole value.
      const final = part === 'text' || this.#single;
      if (final && next[index] === (index < this.#wanted ? DEAD : TOP)) return null;
    }
    return { state: move.to, met, at: next, before: place, character };
  }

  /**
   * Closes a mailbox and records which wanted tests the mailbox matched; null if the mailbox matches a forbidden
   * language.
   */
  #closed(met: number, at: readonly number[]): number | null {
    let bits = met;
    for (let index = 0; index < this.#tests.length; index++) {
      const { part, language } = elementAt(this.#tests, index);
      if (part === 'text' || !language.accepting(elementAt(at, index))) continue;
      if (index >= this.#wanted) return null;
      bits |= 1 << index;
    }
    return bits;
  }

  #isDone({ state, met, at }: Place): boolean {
    const ends = this.#shape.ends(state);
    if (ends === 'no') return false;
    const bits = ends === 'open' ? this.#closed(met, at) : met;
    if (bits === null || (bits & this.#all) !== this.#all) return false;
    return this.#tests.every(({ part, language }, index) => {
      return part !== 'text' || language.accepting(elementAt(at, index)) === index < this.#wanted;
    });
  }
}

const keyOf = ({ state, met, at }: Place): string => `${state} ${met} ${at.join(' ')}`;

/** Natural values composed of the wanted words. */
function likely({ shape, some }: ValueQuery): string[] {
  const words = (part: Part) =>
    some.filter((one) => one.part === part).map(({ language }) => language.samples()[0] ?? '');
  const texts = words('text');
  const spoken = texts.join(' ').trim();
  if (shape === 'text' || shape === 'lines') return [spoken, ...texts];
  const local = words('localpart')[0] ?? 'ann.lee';
  const [domain = 'people.example'] = words('domain');
  const [whole] = words('all');
  const address = whole ?? `${local}@${domain}`;
  const addresses = [
    address,
    `${address}.example`,
    `ann.lee@${address}`,
    `ann.lee@${address}.example`,
    `${address}@${domain}`,
  ];
  if (shape === 'path') return addresses;
  const named = addresses.map((one) => `${spoken || 'Ann Lee'} <${one}>`);
  // A word sought in the whole field may be an address.
  const inWords = spoken.includes('@')
    ? [spoken, `ann.lee${spoken}`, `${spoken}people.example`, `Ann Lee <${spoken}>`]
    : [];
  return [...inWords, ...named, ...addresses];
}

function reads(part: Part, by: Move['reads']): boolean {
  switch (part) {
    case 'text':
      return true;
    case 'all':
      return by !== 'nothing';
    case 'localpart':
      return by === 'local';
    case 'domain':
      return by === 'domain';
    default:
      part satisfies never;
      throw new Error('unknown part');
  }
}

export const EMPTY: Value = { text: '', names: [] };

function valueAt(last: Place): Value {
  const places: Place[] = [];
  for (let place: Place | null = last; place?.before; place = place.before) places.push(place);
  let text = '';
  const names: [number, number][] = [];
  for (const { character, state } of places.reverse()) {
    const name = names.at(-1);
    const [from, to] = [text.length, text.length + character.length];
    if (isInName(state)) {
      if (name?.[1] === from) name[1] = to;
      else names.push([from, to]);
    }
    text += character;
  }
  return { text, names };
}

/** Characters that shapes distinguish, tried first so that values look natural. */
const STRUCTURE = [...' -.@<>,":;[]('];
/** Representatives of all characters that no language names: one per class and length in UTF-8. */
const ORDINARY = [
  [..."aeionrstlmdhcupgbfkvwyjxzq0123456789!#$%&'*+/=?^_`{|}~"],
  [...'0123456789'],
  // i;unicode-casemap decomposes none of these characters, so none contains a letter of a key.
  [...'øþжбдфцщэюя'],
  [...'石水木火土金山川'],
  [...'😀🌊🌲🌳🌻🍎🍐🍒'],
];

/** One character per class that the tests or the shape distinguish. */
function symbolsFor(tests: readonly ValueTest[]): string[] {
  const letters = new Set(tests.flatMap(({ language }) => [...language.letters]));
  const ordinary = ORDINARY.flatMap((kind) => kind.find((character) => !letters.has(character)) ?? []);
  const natural = (character: string) => (/[a-z]/.test(character) ? 0 : /[0-9]/.test(character) ? 1 : 2);
  return [...new Set([...letters, ...ordinary, ...STRUCTURE])].sort((a, b) => natural(a) - natural(b));
}
