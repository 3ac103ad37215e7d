import { elementAt } from '../../text/lookup';
import { RELATIONS, type Relation } from '../../text/relation';
import { type Automaton, DEAD, type Folding, octetsOf, TOP } from './language';

/** An automaton whose texts are those that lie before, at or after a key in some order. */
export interface Ordered extends Automaton {
  readonly relation: Relation;
  readonly key: string;
  /** Below, at or above 0: how this key compares with another one's. */
  readonly compareKey: (other: Ordered) => number;
  readonly folded: string;
}

/** The order of a comparator: of folded texts. */
export interface TextOrder {
  readonly fold: (text: string) => string;
  readonly order: (a: string, b: string) => number;
}

const encoder = new TextEncoder();

abstract class Comparing implements Ordered {
  readonly start: number = 2;
  readonly folded: string;
  abstract readonly letters: ReadonlySet<string>;
  abstract readonly family: string | null;

  constructor(
    readonly relation: Relation,
    readonly key: string,
    readonly by: TextOrder,
  ) {
    this.folded = by.fold(key);
  }

  compareKey(other: Ordered): number {
    return this.by.order(this.folded, other.folded);
  }

  abstract step(state: number, character: string): number;
  protected abstract orderAt(state: number): number;
  abstract samples(): string[];

  accepting(state: number): boolean {
    return state === TOP || (state !== DEAD && RELATIONS[this.relation](this.orderAt(state)));
  }

  has(text: string): boolean {
    let at: number = this.start;
    for (const character of text) {
      if (at <= TOP) break;
      at = this.step(at, character);
    }
    return this.accepting(at);
  }

  protected decided(order: number): number {
    return RELATIONS[this.relation](order) ? TOP : DEAD;
  }
}

/** Texts ordered octet by octet after folding. States beyond the two final ones count the octets equal so far. */
export class OctetOrder extends Comparing {
  readonly letters: ReadonlySet<string>;
  readonly family: string | null;
  readonly #octets: Uint8Array;
  /** By character of US-ASCII: the octet it folds to. */
  readonly #folded: Int16Array;

  constructor(
    relation: Relation,
    key: string,
    readonly folding: Folding,
    by: TextOrder,
    letters: Iterable<string>,
  ) {
    super(relation, key, by);
    this.letters = new Set(letters);
    this.#octets = encoder.encode(folding.fold(key));
    this.#folded = octetsOf(folding);
    this.family = relation === 'eq' || relation === 'ne' ? null : `${folding.name} ${relation}`;
  }

  step(state: number, character: string): number {
    const octet = this.#folded[character.charCodeAt(0)] ?? -1;
    if (octet >= 0) return this.#octetStep(state, octet);
    let at = state;
    for (const one of encoder.encode(this.folding.fold(character))) at = this.#octetStep(at, one);
    return at;
  }

  #octetStep(state: number, octet: number): number {
    if (state <= TOP) return state;
    const wanted = this.#octets[state - 2];
    if (wanted === undefined || octet > wanted) return this.decided(1);
    return octet < wanted ? this.decided(-1) : state + 1;
  }

  protected orderAt(state: number): number {
    return state - 2 < this.#octets.length ? -1 : 0;
  }

  samples(): string[] {
    const { relation, key } = this;
    if (relation === 'lt') return [key.slice(0, -1)];
    return [relation === 'gt' || relation === 'ne' ? `${key}a` : key];
  }
}

const ZEROS = 3;
/** States after the first digits other than zero: their number, and how they compare with as many of the key. */
const FIRST = 4;

/** Texts ordered as numbers (RFC 4790 section 9.1): by the digits at the start; without any, positive infinity. */
export class NumberOrder extends Comparing {
  readonly letters: ReadonlySet<string> = new Set('0123456789');
  readonly family: string | null;
  /** The key's digits without leading zeros; null for infinity. */
  readonly #digits: string | null;

  constructor(relation: Relation, key: string, by: TextOrder) {
    super(relation, key, by);
    this.family = relation === 'eq' || relation === 'ne' ? null : `number ${relation}`;
    this.#digits = /^[0-9]+/.exec(key)?.[0].replace(/^0+(?=.)/, '') ?? null;
  }

  step(state: number, character: string): number {
    if (state <= TOP) return state;
    if (!/^[0-9]$/.test(character)) return this.decided(this.orderAt(state));
    if (state <= ZEROS) return character === '0' ? ZEROS : this.#after(0, 0, character);
    const place = state - FIRST;
    return this.#after(Math.floor(place / 3) + 1, (place % 3) - 1, character);
  }

  /** The state after one more digit, if `count` digits before it compare like this with as many of the key. */
  #after(count: number, order: number, digit: string): number {
    const digits = this.#digits;
    if (digits === null) return FIRST;
    if (count >= digits.length) return this.decided(1);
    const next = order !== 0 ? order : Math.sign(Number(digit) - Number(digits[count]));
    return FIRST + 3 * count + next + 1;
  }

  protected orderAt(state: number): number {
    const digits = this.#digits;
    if (state === this.start) return digits === null ? 0 : 1;
    if (digits === null) return -1;
    if (state === ZEROS) return digits === '0' ? 0 : -1;
    const place = state - FIRST;
    return Math.floor(place / 3) + 1 < digits.length ? -1 : (place % 3) - 1;
  }

  samples(): string[] {
    const digits = this.#digits;
    if (digits === null) return this.relation === 'lt' || this.relation === 'ne' ? ['9'] : [''];
    if (this.relation === 'lt') return [digits === '0' ? '' : String(BigInt(digits) - 1n)];
    return [this.relation === 'gt' || this.relation === 'ne' ? String(BigInt(digits) + 1n) : digits];
  }
}

/** Of texts on one side of some keys, the automaton that has those of all. */
export function widest(all: readonly Ordered[]): Ordered | null {
  const [first] = all;
  if (!first || first.relation === 'eq' || first.relation === 'ne') return null;
  const sign = first.relation === 'ge' || first.relation === 'gt' ? 1 : -1;
  return all.reduce((best, one) => (sign * one.compareKey(best) < 0 ? one : best), elementAt(all, 0));
}

export const isOrdered = (automaton: Automaton): automaton is Ordered => automaton instanceof Comparing;
