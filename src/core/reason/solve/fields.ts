import { elementAt } from '../../text/lookup';
import { union } from '../automata/language';
import type { ShapeName } from '../automata/shapes';
import { EMPTY, type FoundValue, findValue, type Value, type ValueTest } from '../automata/values';

/**
 * The theory of messages: fields with values, and numbers. Facts about different fields are independent, so each field
 * is examined alone.
 */
export type Fact =
  /** Some value of the field (or some mailbox of a value) matches the test. */
  | { readonly fact: 'some'; readonly field: Field; readonly test: ValueTest }
  | { readonly fact: 'present'; readonly field: Field }
  /** The message has more octets than this. */
  | { readonly fact: 'over'; readonly octets: number }
  /** A value that is no text, such as a date, lies at a level of its scale or above it; above it where `strict`. */
  | {
      readonly fact: 'beyond';
      readonly scale: string;
      readonly level: string;
      readonly strict: boolean;
      /** Below, at or above 0; one order for all levels of a scale. */
      readonly order: (a: string, b: string) => number;
    }
  /** What is not understood: it may be true or false whatever else is. */
  | { readonly fact: 'free'; readonly name: string };

export interface Field {
  readonly name: string;
  readonly shape: ShapeName;
  readonly times: 'once' | 'at most once' | 'any number';
  /** Whether the value may be empty although the shape has no empty value. */
  readonly mayBeEmpty: boolean;
  /** Whether the value may be any text although tests also read addresses. */
  readonly mayBeText: boolean;
}

/** The demands of the assigned facts on a message. */
export interface Model {
  /** The values of each present field. */
  readonly values: ReadonlyMap<string, readonly Value[]>;
  /** The least and the largest number of octets; null for no bound. */
  readonly size: { readonly least: number; readonly most: number | null };
  /** The levels that numbers and dates must and must not reach. */
  readonly levels: readonly Level[];
}

/** Whether a value is beyond a level of the scale. */
export interface Level extends Omit<Extract<Fact, { fact: 'beyond' }>, 'fact'> {
  readonly truth: boolean;
}

/** Indexes of facts, with their assigned truth. */
export type Assigned = ReadonlyMap<number, boolean>;

export type Verdict =
  | { readonly verdict: 'model'; readonly model: Model }
  /** Of each of these, the facts cannot be so together. */
  | { readonly verdict: 'conflict'; readonly conflicts: readonly (readonly number[])[] }
  /** It was not found out, for these facts, within the budget. */
  | { readonly verdict: 'gave up'; readonly facts: readonly number[] };

/** Looks for values that satisfy assigned facts. */
export class Fields {
  readonly #found = new Map<string, FoundValue>();

  /** `checkpoint` is called before each search for a value, and may throw. */
  constructor(
    readonly facts: readonly Fact[],
    readonly checkpoint: () => void = () => {},
  ) {}

  check(assigned: Assigned): Verdict {
    const values = new Map<string, readonly Value[]>();
    const byField = new Map<Field, number[]>();
    let [least, most, mostFact, leastFact] = [0, Number.POSITIVE_INFINITY, -1, -1];
    for (const [index, truth] of assigned) {
      const fact = elementAt(this.facts, index);
      if (fact.fact === 'some' || fact.fact === 'present') {
        const known = byField.get(fact.field);
        if (known) known.push(index);
        else byField.set(fact.field, [index]);
      } else if (fact.fact === 'over') {
        if (truth && fact.octets + 1 > least) [least, leastFact] = [fact.octets + 1, index];
        if (!truth && fact.octets < most) [most, mostFact] = [fact.octets, index];
      }
    }
    const conflicts: (readonly number[])[] = this.#levelConflicts(assigned);
    if (least > most) conflicts.push([leastFact, mostFact]);
    if (most < 0) conflicts.push([mostFact]);
    let unknown: readonly number[] | null = null;
    for (const [field, indexes] of byField) {
      const found = this.#valuesOf(field, indexes, assigned);
      if ('values' in found) {
        if (found.values.length > 0) values.set(field.name, found.values);
      } else if (found.verdict === 'conflict') conflicts.push(...found.conflicts);
      else unknown = found.facts;
    }
    if (conflicts.length > 0) return { verdict: 'conflict', conflicts };
    if (unknown) return { verdict: 'gave up', facts: unknown };
    const levels = [...assigned].flatMap(([index, truth]) => {
      const fact = elementAt(this.facts, index);
      return fact.fact === 'beyond' ? [{ ...fact, truth }] : [];
    });
    return { verdict: 'model', model: { values, size: { least, most: Number.isFinite(most) ? most : null }, levels } };
  }

  /** Whether an unassigned fact follows from the assigned facts: a value beyond a level is beyond all lower levels. */
  follows(index: number, assigned: Assigned): boolean {
    const asked = this.facts[index];
    if (asked?.fact !== 'beyond') return false;
    return [...assigned].some(([other, truth]) => {
      const fact = this.facts[other];
      return truth && fact?.fact === 'beyond' && fact.scale === asked.scale && this.#levelOrder(other, index) >= 0;
    });
  }

  /** A value cannot lie beyond one level and not beyond a lower one. */
  #levelConflicts(assigned: Assigned): number[][] {
    const highest = new Map<string, number>();
    const lowest = new Map<string, number>();
    for (const [index, truth] of assigned) {
      const fact = elementAt(this.facts, index);
      if (fact.fact !== 'beyond') continue;
      const [bounds, sign] = truth ? [highest, 1] : [lowest, -1];
      const known = bounds.get(fact.scale);
      if (known === undefined || sign * this.#levelOrder(index, known) > 0) bounds.set(fact.scale, index);
    }
    return [...highest].flatMap(([scale, high]) => {
      const low = lowest.get(scale);
      return low !== undefined && this.#levelOrder(high, low) >= 0 ? [[high, low]] : [];
    });
  }

  #levelOrder(a: number, b: number): number {
    const [first, second] = [this.facts[a], this.facts[b]];
    if (first?.fact !== 'beyond' || second?.fact !== 'beyond') throw new Error('no level');
    return first.order(first.level, second.level) || Number(first.strict) - Number(second.strict);
  }

  #valuesOf(
    field: Field,
    indexes: readonly number[],
    assigned: Assigned,
  ): { readonly values: readonly Value[] } | Exclude<Verdict, { verdict: 'model' }> {
    const some = indexes.filter((index) => this.facts[index]?.fact === 'some' && assigned.get(index));
    const none = indexes.filter((index) => this.facts[index]?.fact === 'some' && !assigned.get(index));
    const present = indexes.find((index) => this.facts[index]?.fact === 'present');
    const isPresent = present === undefined ? undefined : assigned.get(present);
    if (present !== undefined && isPresent === false) {
      if (field.times === 'once') return { verdict: 'conflict', conflicts: [[present]] };
      return some.length === 0 ? { values: [] } : { verdict: 'conflict', conflicts: some.map((one) => [present, one]) };
    }
    const needed = field.times === 'once' || isPresent === true;
    if (some.length === 0 && !needed) return { values: [] };
    const asked = some.length === 0 ? [[]] : field.times === 'any number' ? some.map((index) => [index]) : [some];
    const values: Value[] = [];
    const pairs = this.#pairs(field, some, none);
    if (pairs.length > 0) return { verdict: 'conflict', conflicts: pairs };
    for (const together of asked) {
      const [positive, negative] = this.#smaller(field, together, none) ?? [together, none];
      const found = this.#find(field, positive, negative);
      if (found.found === 'value') {
        values.push(found.value);
        continue;
      }
      const base = together.length === 0 && present !== undefined && field.times !== 'once' ? [present] : [];
      if (found.found === 'gave up') return { verdict: 'gave up', facts: [...base, ...together, ...none] };
      return { verdict: 'conflict', conflicts: [[...base, ...this.#core(field, positive, negative)]] };
    }
    return { values: [...new Set(values)] };
  }

  /**
   * Tries each wanted test with one excluding test: most conflicts involve two tests, and small products find those
   * fast.
   */
  #pairs(field: Field, some: readonly number[], none: readonly number[]): number[][] {
    return some.flatMap((wanted) => {
      return none.filter((one) => this.#find(field, [wanted], [one]).found === 'none').map((one) => [wanted, one]);
    });
  }

  /** Conflicting facts found by a product of fewer automata than all. */
  #smaller(
    field: Field,
    some: readonly number[],
    none: readonly number[],
  ): [readonly number[], readonly number[]] | null {
    if (some.length < 2) return null;
    if (this.#find(field, some, []).found === 'none') return [some, []];
    const only = some.find((one) => this.#find(field, [one], none).found === 'none');
    return only === undefined ? null : [[only], none];
  }

  /** A small set of facts that conflict. */
  #core(field: Field, some: readonly number[], none: readonly number[]): number[] {
    const excludes = (kept: readonly number[]) => {
      const [positive, negative] = [some.filter((one) => kept.includes(one)), none.filter((one) => kept.includes(one))];
      // If no fact wants a value, the field may be absent.
      if (field.times !== 'once' && some.length > 0 && positive.length === 0) return false;
      return this.#find(field, positive, negative).found === 'none';
    };
    return smallest([...some, ...none], excludes);
  }

  #find(field: Field, some: readonly number[], none: readonly number[]): FoundValue {
    const key = `${field.name} ${some.join(' ')} not ${none.join(' ')}`;
    const known = this.#found.get(key);
    if (known) return known;
    this.checkpoint();
    const testOf = (index: number): ValueTest => {
      const fact = elementAt(this.facts, index);
      if (fact.fact !== 'some') throw new Error('no test of a value');
      return fact.test;
    };
    const tests = { some: some.map(testOf), none: together(none.map(testOf)) };
    const isMet = ({ language }: ValueTest) => language.has('');
    const empty = field.mayBeEmpty && tests.some.every(isMet) && !tests.none.some(isMet);
    let found = findValue({ shape: field.shape, ...tests });
    if (found.found === 'none' && field.mayBeText)
      found = findValue({ shape: 'text', some: tests.some, none: tests.none.filter(ofText) });
    if (empty && found.found !== 'value') found = { found: 'value', value: EMPTY };
    this.#found.set(key, found);
    return found;
  }
}

/** Forbidden tests of one part and family become one automaton instead of hundreds. */
function together(tests: readonly ValueTest[]): ValueTest[] {
  const groups = new Map<string, ValueTest[]>();
  for (const test of tests) {
    const { family } = test.language;
    const key = `${test.part} ${family ?? `alone ${groups.size}`}`;
    groups.set(key, [...(groups.get(key) ?? []), test]);
  }
  return Array.from(groups.values(), (group) => {
    const { part } = elementAt(group, 0);
    return { part, language: union(group.map(({ language }) => language)) };
  });
}

const ofText = ({ part }: ValueTest): boolean => part === 'text';

/** Removes from `all` whatever can go while the rest is still `enough`; large lists are halved first. */
export function smallest<T>(all: readonly T[], enough: (kept: readonly T[]) => boolean): T[] {
  let kept = [...all];
  for (let size = Math.ceil(kept.length / 2); size >= 1; size = size === 1 ? 0 : Math.ceil(size / 2)) {
    for (let at = 0; at < kept.length; ) {
      const rest = [...kept.slice(0, at), ...kept.slice(at + size)];
      if (rest.length < kept.length && enough(rest)) kept = rest;
      else at += size;
    }
  }
  return kept;
}
