import { elementAt } from '../../text/lookup';
import type { MomentTest } from '../automata/calendar';
import type { ShapeName, StrictShape } from '../automata/shapes';
import type { Value, ValueTest } from '../automata/values';
import type { Assumption, Assumptions } from './assumptions';
import { FieldValues } from './field-values';
import { Moments } from './moments';

/**
 * The theory of messages: fields with values, and numbers. Facts about different fields are independent, so each field
 * is examined alone.
 */
export type Fact =
  | FieldFact
  /** The message has more octets than this. */
  | { readonly fact: 'over'; readonly octets: number }
  /** The current date matches the test. */
  | { readonly fact: 'now'; readonly test: MomentTest }
  /** What is not understood: it may be true or false whatever else is. */
  | { readonly fact: 'free'; readonly name: string };

export type FieldFact =
  /** Some value of the field (or some mailbox of a value) matches the test; of the value at a position, if given. */
  | { readonly fact: 'some'; readonly field: Field; readonly test: ValueTest; readonly at?: Position }
  | { readonly fact: 'present'; readonly field: Field }
  /** The field occurs at least this many times; from 2 on. */
  | { readonly fact: 'times'; readonly field: Field; readonly least: number }
  /** Some value is, or ends with, a date that matches the test. */
  | { readonly fact: 'dated'; readonly field: Field; readonly test: MomentTest }
  /** All values together have at least this many addresses; from 2 on. */
  | { readonly fact: 'addresses'; readonly field: Field; readonly least: number };

/** One of several occurrences of a field, counted from 1. */
export interface Position {
  readonly number: number;
  readonly fromEnd: boolean;
}

export interface Field {
  readonly name: string;
  /** Its values in well-formed messages. */
  readonly strict: StrictShape;
  /** Its values in any message, as texts. */
  readonly loose: Extract<ShapeName, 'any text' | 'lines' | 'address'>;
  /** Under which assumption it occurs at most once: true for any message, null for none. */
  readonly single: Assumption | true | null;
  /** Whether well-formed messages have it. */
  readonly required: boolean;
  /** Whether any message has it. */
  readonly always: boolean;
  /** Its values in natural messages if nothing else is asked for; none if they may lack it. */
  readonly natural: readonly string[];
  /** Whether the value may be empty although the shape has no empty value. */
  readonly mayBeEmpty: boolean;
}

/** The demands of the assigned facts on a message. */
export interface Model {
  /** The values of each field that was examined; none if it must be absent, or may be. */
  readonly values: ReadonlyMap<string, readonly Value[]>;
  /** The least and the largest number of octets; null for no bound. */
  readonly size: { readonly least: number; readonly most: number | null };
  /** The current date, in milliseconds since 1970; null for any. */
  readonly now: number | null;
}

/** Indexes of facts, with their assigned truth. */
export type Assigned = ReadonlyMap<number, boolean>;

/** These facts cannot be so together in a message that keeps the assumptions. */
export interface Conflict {
  readonly facts: readonly number[];
  readonly assumes: readonly Assumption[];
}

export type Verdict =
  | { readonly verdict: 'model'; readonly model: Model }
  | { readonly verdict: 'conflict'; readonly conflicts: readonly Conflict[] }
  /** It was not found out, for these facts, within the budget. */
  | { readonly verdict: 'gave up'; readonly facts: readonly number[] };

/** Looks for values that satisfy assigned facts. */
export class Fields {
  readonly #values: FieldValues;
  readonly #moments: Moments;

  /** `checkpoint` is called before each search for a value, and may throw. */
  constructor(
    readonly facts: readonly Fact[],
    checkpoint: () => void = () => {},
  ) {
    this.#moments = new Moments(facts, checkpoint);
    this.#values = new FieldValues(facts, this.#moments, checkpoint);
  }

  check(assigned: Assigned, assumed: Assumptions): Verdict {
    const values = new Map<string, readonly Value[]>();
    const byField = new Map<Field, number[]>();
    let [least, most, mostFact, leastFact] = [0, Number.POSITIVE_INFINITY, -1, -1];
    for (const [index, truth] of assigned) {
      const fact = elementAt(this.facts, index);
      if ('field' in fact) {
        const known = byField.get(fact.field);
        if (known) known.push(index);
        else byField.set(fact.field, [index]);
      } else if (fact.fact === 'over') {
        if (truth && fact.octets + 1 > least) [least, leastFact] = [fact.octets + 1, index];
        if (!truth && fact.octets < most) [most, mostFact] = [fact.octets, index];
      }
    }
    const always = (facts: readonly number[]): Conflict => ({ facts, assumes: [] });
    const conflicts: Conflict[] = [];
    // No message has fewer octets than none, whatever the other facts are.
    if (most < 0) conflicts.push(always([mostFact]));
    else if (least > most) conflicts.push(always([leastFact, mostFact]));
    let unknown: readonly number[] | null = null;
    for (const [field, indexes] of byField) {
      const found = this.#values.of(field, indexes, assigned, assumed);
      if ('values' in found) values.set(field.name, found.values);
      else if ('conflicts' in found) conflicts.push(...found.conflicts);
      else unknown = found.gaveUp;
    }
    const clock = this.#moments.now(assigned);
    if ('conflicts' in clock) conflicts.push(...clock.conflicts.map(always));
    if (conflicts.length > 0) return { verdict: 'conflict', conflicts };
    if ('gaveUp' in clock) unknown = clock.gaveUp;
    if (unknown) return { verdict: 'gave up', facts: unknown };
    const size = { least, most: Number.isFinite(most) ? most : null };
    return { verdict: 'model', model: { values, size, now: 'now' in clock ? clock.now : null } };
  }
}
