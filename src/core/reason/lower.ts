import { maybeZone } from '../mail/date';
import type { ComparedTest, Comparison, Occurrence, Subject, Zone } from '../rules/comparison';
import { wordsOfTest } from '../rules/nodes';
import type { AddressPart, LeafTest, TestTree, TextMatch } from '../rules/rule';
import { SEPARATOR } from '../sieve/language/headers';
import type { Relation } from '../text/relation';
import { type MomentTest, meetsAll, type TestedZone } from './automata/calendar';
import type { Automaton } from './automata/language';
import { PartLanguage, type Side } from './automata/part-language';
import type { Part } from './automata/values';
import { nameInContext } from './fates';
import { BODY, ENVELOPE, fieldNamed, RAW_BODY } from './known-fields';
import { isLanguage, languageOf, type TextTest } from './languages';
import type { Fact, Field } from './solve/fields';
import { FALSE, type Formula, Formulas, not, TRUE } from './solve/formula';

/** Turns tests into formulas over facts; equal tests give equal formulas, and equal facts have one number. */
export class Lowering {
  readonly formulas = new Formulas();
  readonly facts: Fact[] = [];
  readonly #numbers = new Map<string, number>();
  readonly #fields = new Map<string, Field>();
  readonly #leaves = new WeakMap<LeafTest, Formula>();

  /** `clock`: the current date that rules see, in milliseconds since 1970; null for any time. */
  constructor(
    readonly languages: Map<string, Automaton> = new Map(),
    readonly clock: number | null = null,
  ) {}

  /** `hasFlag` returns the condition under which a flag is set, which is not a property of the message. */
  condition(tree: TestTree, hasFlag: (test: Extract<LeafTest, { test: 'hasflag' }>) => Formula): Formula {
    if (tree.kind === 'leaf') return tree.test.test === 'hasflag' ? hasFlag(tree.test) : this.leaf(tree.test);
    const parts = tree.children.map((child) => this.condition(child, hasFlag));
    if (tree.kind === 'all') return this.formulas.and(...parts);
    return tree.kind === 'any' ? this.formulas.or(...parts) : not(this.formulas.or(...parts));
  }

  leaf(test: Exclude<LeafTest, { test: 'hasflag' }>): Formula {
    const known = this.#leaves.get(test);
    if (known !== undefined) return known;
    const formula = this.#leaf(test);
    this.#leaves.set(test, formula);
    return formula;
  }

  /** A free fact; equal names give the same fact. */
  free(name: string): Formula {
    return this.#fact(`free ${name}`, () => ({ fact: 'free', name }));
  }

  #leaf(test: Exclude<LeafTest, { test: 'hasflag' }>): Formula {
    const { formulas } = this;
    switch (test.test) {
      case 'header':
        return this.#texts(lower(test.headers), 'text', comparisonOf(test)) ?? this.free(wordsOfTest(test));
      case 'address':
        return this.#texts(lower(test.headers), test.part, comparisonOf(test)) ?? this.free(wordsOfTest(test));
      case 'envelope': {
        const names = test.parts.map((part) => ENVELOPE + part.toLowerCase());
        return this.#texts(names, test.part, comparisonOf(test)) ?? this.free(wordsOfTest(test));
      }
      case 'exists':
        return formulas.and(...lower(test.headers).map((name) => this.#present(name)));
      case 'size':
        return test.relation === 'over' ? this.#over(test.octets) : not(this.#over(test.octets - 1));
      // Only the interpreter knows what earlier entries have changed in the message.
      case 'in-context':
        return this.free(nameInContext(wordsOfTest(test), test.before));
      case 'compared':
        return this.#compared(test) ?? this.free(wordsOfTest(test));
      default:
        return this.free(wordsOfTest(test));
    }
  }

  /** Null for a comparison outside the supported languages: a free fact, shared by comparisons written alike. */
  #compared({ subject, by }: ComparedTest): Formula | null {
    switch (subject.of) {
      case 'header':
        if (subject.within || subject.option) return null;
        if (by.match === 'count') return subject.occurrence ? null : this.#count(subject, by);
        return this.#texts(lower(subject.headers), 'text', by, subject.occurrence);
      case 'address':
        if (subject.within) return null;
        if (by.match === 'count') return subject.occurrence || subject.part !== 'all' ? null : this.#count(subject, by);
        return this.#texts(lower(subject.headers), subject.part, by, subject.occurrence);
      case 'envelope': {
        const names = subject.parts.map((part) => ENVELOPE + part.toLowerCase());
        return this.#texts(names, subject.part, by);
      }
      case 'body':
        return this.#texts([subject.transform === 'raw' ? RAW_BODY : BODY], 'text', by);
      case 'body parts':
        return this.#texts([`parts ${lower(subject.types).sort().join(' ')}`], 'text', by);
      case 'environment':
        return this.#texts([`environment ${subject.name.toLowerCase()}`], 'text', by);
      case 'metadata':
        return this.#texts([`metadata ${subject.annotation} of ${subject.folder}`], 'text', by);
      case 'servermetadata':
        return this.#texts([`metadata ${subject.annotation}`], 'text', by);
      case 'spamtest':
        return this.#texts([subject.percent ? 'score spam percent' : 'score spam'], 'text', by);
      case 'virustest':
        return this.#texts(['score virus'], 'text', by);
      case 'string':
        return this.#string(subject.texts, by);
      case 'date':
      case 'currentdate':
        return this.#dated(subject, by);
      case 'notify_method_capability':
        return null;
      default:
        subject satisfies never;
        throw new Error('unknown subject');
    }
  }

  /** Some text of any of the fields matches; null if that is not understood. */
  #texts(names: readonly string[], part: WantedPart, by: Comparison, at?: Occurrence): Formula | null {
    const tests = textTests(by);
    if (!tests?.every(isLanguage)) return null;
    return this.formulas.or(...names.flatMap((name) => tests.map((test) => this.#some(name, part, test, at))));
  }

  #some(name: string, wanted: WantedPart, test: TextTest, at?: Occurrence): Formula {
    const side: Side | null = wanted === 'user' ? 'before' : wanted === 'detail' ? 'after' : null;
    const part: Part = wanted === 'user' || wanted === 'detail' ? 'localpart' : wanted;
    const language = this.#language(test, side);
    const place = at ? `${at.number} ${at.fromEnd}` : '';
    return this.#fact(`some ${name} ${part} ${place} ${language.key}`, () => {
      const fact = { fact: 'some', field: this.#field(name), test: { part, language: language.automaton } } as const;
      return at ? { ...fact, at } : fact;
    });
  }

  #language(test: TextTest, side: Side | null = null): { readonly key: string; readonly automaton: Automaton } {
    const relation = test.match === 'value' ? test.relation : '';
    const key = JSON.stringify([test.match, relation, test.comparator, [...new Set(test.keys)].sort(), side]);
    const known = this.languages.get(key);
    if (known) return { key, automaton: known };
    const whole = languageOf(test);
    const automaton = side === null ? whole : new PartLanguage(whole, side, SEPARATOR);
    this.languages.set(key, automaton);
    return { key, automaton };
  }

  /** The number of fields, or of addresses in them, in relation to numbers (RFC 5231 section 4.2). */
  #count(subject: Extract<Subject, { of: 'header' | 'address' }>, by: Counting): Formula | null {
    const names = lower(subject.headers);
    if (by.comparator !== 'i;ascii-numeric' || !by.keys.every((key) => /^\d{1,3}$/.test(key))) return null;
    if (names.length > 1 && by.keys.some((key) => Number(key) >= MOST_COUNTED)) return null;
    const { formulas } = this;
    const atLeast = (least: number) => this.#atLeast(names, least, subject.of);
    const relations: Record<Relation, (number: number) => Formula> = {
      ge: atLeast,
      gt: (number) => atLeast(number + 1),
      lt: (number) => not(atLeast(number)),
      le: (number) => not(atLeast(number + 1)),
      eq: (number) => formulas.and(atLeast(number), not(atLeast(number + 1))),
      ne: (number) => not(formulas.and(atLeast(number), not(atLeast(number + 1)))),
    };
    return formulas.or(...by.keys.map((key) => relations[by.relation](Number(key))));
  }

  /** All fields of these names together occur, or have addresses, at least this many times. */
  #atLeast([name, ...others]: readonly string[], least: number, of: 'header' | 'address'): Formula {
    if (least <= 0) return TRUE;
    if (name === undefined) return FALSE;
    const here = (number: number) => (of === 'header' ? this.#times(name, number) : this.#addresses(name, number));
    if (others.length === 0) return here(least);
    const ways = Array.from({ length: least + 1 }, (_, number) =>
      this.formulas.and(here(number), this.#atLeast(others, least - number, of)),
    );
    return this.formulas.or(...ways);
  }

  #times(name: string, least: number): Formula {
    if (least <= 0) return TRUE;
    if (least === 1) return this.#present(name);
    return this.#fact(`times ${name} ${least}`, () => ({ fact: 'times', field: this.#field(name), least }));
  }

  #addresses(name: string, least: number): Formula {
    if (least <= 0) return TRUE;
    if (least === 1) return this.#some(name, 'all', { match: 'contains', comparator: 'i;octet', keys: [''] });
    return this.#fact(`addresses ${name} ${least}`, () => ({ fact: 'addresses', field: this.#field(name), least }));
  }

  /** A comparison of fixed texts is true or false whatever the message (RFC 5229 section 5). */
  #string(texts: readonly string[], by: Comparison): Formula | null {
    const tests = textTests(by);
    if (!tests?.every(isLanguage)) return null;
    return tests.some((test) => texts.some((text) => this.#language(test).automaton.has(text))) ? TRUE : FALSE;
  }

  #dated(subject: Extract<Subject, { of: 'date' | 'currentdate' }>, by: Comparison): Formula | null {
    const tests = textTests(by);
    if (!tests?.every(isLanguage)) return null;
    if (subject.of === 'date' && subject.occurrence) return null;
    const zone = testedZone(subject.zone);
    const part = subject.part.toLowerCase();
    return this.formulas.or(
      ...tests.map((one) => {
        const { key, automaton: language } = this.#language(one);
        const test: MomentTest = { part, zone, language };
        if (subject.of === 'date') {
          const name = subject.header.toLowerCase();
          return this.#fact(`dated ${name} ${zone} ${part} ${key}`, () => {
            return { fact: 'dated', field: this.#field(name), test };
          });
        }
        if (this.clock !== null)
          return meetsAll({ some: [test], none: [] }, { time: this.clock, zone: 0 }) ? TRUE : FALSE;
        return this.#fact(`now ${zone} ${part} ${key}`, () => ({ fact: 'now', test }));
      }),
    );
  }

  #present(name: string): Formula {
    return this.#fact(`present ${name}`, () => ({ fact: 'present', field: this.#field(name) }));
  }

  #over(octets: number): Formula {
    return this.#fact(`over ${octets}`, () => ({ fact: 'over', octets }));
  }

  #fact(key: string, make: () => Fact): Formula {
    const known = this.#numbers.get(key);
    if (known !== undefined) return this.formulas.atom(known);
    const number = this.facts.push(make()) - 1;
    this.#numbers.set(key, number);
    return this.formulas.atom(number);
  }

  #field(name: string): Field {
    const field = this.#fields.get(name) ?? fieldNamed(name);
    this.#fields.set(name, field);
    return field;
  }
}

type WantedPart = 'text' | AddressPart | 'user' | 'detail';
type Counting = Extract<Comparison, { match: 'count' }>;

/** A zone that is none is that of the server (RFC 5260 section 4.1). */
const testedZone = (zone: Zone): TestedZone =>
  zone === 'original' ? 'written' : ((zone === null ? null : maybeZone(zone)) ?? 'server');

/** Numbers of occurrences of several fields together are only understood below this. */
const MOST_COUNTED = 6;

const comparisonOf = ({ match, comparator, keys }: TextMatch): Comparison => ({ match, comparator, keys });

/** A comparison as tests of single texts, any of which may match; null for counts and lists. */
function textTests(by: Comparison): TextTest[] | null {
  const { comparator, keys } = by;
  switch (by.match) {
    case 'count':
    case 'list':
      return null;
    case 'value':
      return keys.map((key) => ({ match: 'value', relation: by.relation, comparator, keys: [key] }));
    default:
      if (comparator !== 'i;ascii-numeric') return [{ match: by.match, comparator, keys }];
      // Equality of numbers; the comparator has no substrings.
      return by.match === 'is'
        ? keys.map((key) => ({ match: 'value', relation: 'eq', comparator, keys: [key] }))
        : null;
  }
}

const lower = (names: readonly string[]): string[] => [...new Set(names.map((name) => name.toLowerCase()))];
