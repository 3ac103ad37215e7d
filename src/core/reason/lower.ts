import type { ComparedTest, Relation } from '../rules/comparison';
import { type LevelMatch, maybeBodyMatch, maybeLevelMatch, maybeRegexMatch } from '../rules/known-comparisons';
import { wordsOfTest } from '../rules/nodes';
import type { LeafTest, TestTree } from '../rules/rule';
import { maybeComparator } from '../sieve/match/comparators';
import type { Automaton } from './automata/language';
import type { ShapeName } from './automata/shapes';
import type { Part } from './automata/values';
import { nameInContext } from './fates';
import { CLOCK_SCALE, clockMeets } from './instant';
import { isLanguage, languageOf, type TextTest } from './languages';
import type { Fact, Field } from './solve/fields';
import { FALSE, type Formula, Formulas, not, TRUE } from './solve/formula';

/**
 * Assumptions of every proof: From occurs once with one mailbox; Sender, Subject, Date, To, Cc, Bcc, Reply-To and
 * Message-ID occur at most once (RFC 5322 section 3.6); all other fields any number of times; header fields are well
 * formed, without control characters; addresses are written as `shapes.ts` says; the envelope has a recipient and a
 * sender, which may be empty.
 */
const KNOWN: Readonly<Record<string, { readonly shape: ShapeName; readonly times: Field['times'] }>> = {
  from: { shape: 'mailbox', times: 'once' },
  sender: { shape: 'mailbox', times: 'at most once' },
  to: { shape: 'mailboxes', times: 'at most once' },
  cc: { shape: 'mailboxes', times: 'at most once' },
  bcc: { shape: 'mailboxes', times: 'at most once' },
  'reply-to': { shape: 'mailboxes', times: 'at most once' },
  subject: { shape: 'text', times: 'at most once' },
  date: { shape: 'text', times: 'at most once' },
  'message-id': { shape: 'text', times: 'at most once' },
};

export const ENVELOPE = 'envelope ';
export const BODY = 'body ';

/** Turns tests into formulas over facts; equal tests give equal formulas, and equal facts have one number. */
export class Lowering {
  readonly formulas = new Formulas();
  readonly facts: Fact[] = [];
  /** How often a field read as text before was later read as addresses. */
  reshaped = 0;
  readonly #numbers = new Map<string, number>();
  readonly #fields = new Map<string, FieldInTheMaking>();
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
        return formulas.or(...lower(test.headers).map((name) => this.#some(name, 'text', test)));
      case 'address':
        return formulas.or(...lower(test.headers).map((name) => this.#some(name, test.part, test)));
      case 'envelope':
        return formulas.or(...test.parts.map((part) => this.#some(ENVELOPE + part, test.part, test)));
      case 'exists':
        return formulas.and(...lower(test.headers).map((name) => this.#present(name)));
      case 'size':
        return test.relation === 'over' ? this.#over(test.octets) : not(this.#over(test.octets - 1));
      // Only the interpreter knows what earlier entries have changed in the message.
      case 'in-context':
        return this.free(nameInContext(wordsOfTest(test), test.before));
      case 'compared':
        return this.#compared(test);
      default:
        return this.free(wordsOfTest(test));
    }
  }

  /** A comparison outside the supported languages is a free fact, shared by comparisons written alike. */
  #compared(test: ComparedTest): Formula {
    switch (test.subject.of) {
      case 'body': {
        const body = maybeBodyMatch(test);
        return body ? this.#some(BODY, 'text', body) : this.free(wordsOfTest(test));
      }
      case 'header':
      case 'address':
        return this.#regex(test) ?? this.#levels(test) ?? this.free(wordsOfTest(test));
      case 'date':
      case 'currentdate':
        return this.#levels(test) ?? this.free(wordsOfTest(test));
      case 'envelope':
      case 'body parts':
      case 'environment':
      case 'string':
      case 'metadata':
      case 'servermetadata':
      case 'spamtest':
      case 'virustest':
      case 'notify_method_capability':
        return this.free(wordsOfTest(test));
      default:
        test.subject satisfies never;
        throw new Error('unknown subject');
    }
  }

  #regex(test: ComparedTest): Formula | null {
    const found = maybeRegexMatch(test);
    return found && this.formulas.or(...lower(found.fields).map((name) => this.#some(name, found.part, found)));
  }

  #levels(test: ComparedTest): Formula | null {
    const found = maybeLevelMatch(test);
    return found && this.formulas.or(...found.levels.map((level) => this.#related(found, level)));
  }

  #related(match: LevelMatch, level: string): Formula {
    const { formulas } = this;
    const least = (strict: boolean) => this.#beyond(match, level, strict);
    const relations: Record<Relation, () => Formula> = {
      ge: () => least(false),
      gt: () => least(true),
      lt: () => not(least(false)),
      le: () => not(least(true)),
      eq: () => formulas.and(least(false), not(least(true))),
      ne: () => not(formulas.and(least(false), not(least(true)))),
    };
    const holds = relations[match.relation]();
    if (match.of !== 'date') return holds;
    // Without a readable date, no comparison of it is true.
    return formulas.and(this.#present('date'), this.free('the date can be read'), holds);
  }

  /** “At least one occurrence” is the presence of a field; most known fields occur at most once. */
  #beyond({ of, scale, field, comparator }: LevelMatch, level: string, strict: boolean): Formula {
    if (of === 'count' && field !== null) {
      const least = Number(level) + (strict ? 1 : 0);
      if (least <= 0) return TRUE;
      if (least === 1) return this.#present(field);
      if (this.#field(field, 'text').times !== 'any number') return FALSE;
      return this.formulas.and(this.#present(field), this.#level(scale, String(least), false, comparator));
    }
    return this.#level(scale, level, strict, comparator);
  }

  #level(scale: string, level: string, strict: boolean, comparator: string): Formula {
    const found = maybeComparator(comparator);
    if (!found) throw new Error(`unknown comparator ${comparator}`);
    const folded = found.fold(level);
    if (this.clock !== null && scale.startsWith(CLOCK_SCALE)) {
      return clockMeets({ scale, level: folded, strict, order: found.order, truth: true }, this.clock) ? TRUE : FALSE;
    }
    return this.#fact(`beyond ${scale} ${strict} ${folded}`, () => {
      return { fact: 'beyond', scale, level: folded, strict, order: found.order };
    });
  }

  #some(name: string, part: Part, { match, comparator, keys }: TextTest): Formula {
    const comparison = { match, comparator, keys };
    const key = JSON.stringify([match, comparator, [...new Set(keys)].sort()]);
    if (!isLanguage(comparison)) return this.free(`${name} ${part} ${key}`);
    return this.#fact(`some ${name} ${part} ${key}`, () => {
      const language = this.languages.get(key) ?? languageOf(comparison);
      this.languages.set(key, language);
      return { fact: 'some', field: this.#field(name, part), test: { part, language } };
    });
  }

  #present(name: string): Formula {
    return this.#fact(`present ${name}`, () => ({ fact: 'present', field: this.#field(name, 'text') }));
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

  /**
   * A field that no standard defines as an address field may contain any text, even if a test reads addresses in it.
   */
  #field(name: string, part: Part): Field {
    const field = this.#fields.get(name) ?? fieldNamed(name);
    this.#fields.set(name, field);
    if (part !== 'text' && field.shape === 'text') {
      field.shape = 'mailboxes';
      field.mayBeText = true;
      this.reshaped++;
    }
    return field;
  }
}

/** The shape of a field's values is known only after all tests have been lowered. */
type FieldInTheMaking = { -readonly [Key in keyof Field]: Field[Key] };

function fieldNamed(name: string): FieldInTheMaking {
  const [mayBeEmpty, mayBeText] = [false, false];
  if (name === BODY) return { name, shape: 'lines', times: 'any number', mayBeEmpty, mayBeText };
  // The null reverse-path (RFC 5321 section 4.5.5) is empty whatever part is asked for (RFC 5228 section 5.4).
  if (name === `${ENVELOPE}from`) return { name, shape: 'path', times: 'once', mayBeEmpty: true, mayBeText };
  if (name.startsWith(ENVELOPE)) return { name, shape: 'path', times: 'once', mayBeEmpty, mayBeText };
  const { shape, times } = KNOWN[name] ?? { shape: 'text', times: 'any number' };
  return { name, shape, times, mayBeEmpty, mayBeText };
}

const lower = (names: readonly string[]): string[] => [...new Set(names.map((name) => name.toLowerCase()))];
