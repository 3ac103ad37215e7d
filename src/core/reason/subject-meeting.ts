import { elementAt } from '../text/lookup';
import { type Item, Language } from './automata/language';
import type { Part, ValueTest } from './automata/values';
import { isHeaderField } from './known-fields';
import type { Fact, Field } from './solve/fields';
import { type Formula, type Formulas, not } from './solve/formula';

/** `ask`: only the solver can tell. */
export type Meeting = 'possible' | 'exclusive' | 'ask';

/** Tells from the forms of two conditions on one subject, such as a field, whether one message can match both. */
export class SubjectMeetings {
  readonly #additive = new Map<Formula, boolean>();
  readonly #ofNone = new Map<Formula, boolean>();
  readonly #samples = new Map<Formula, string | null>();
  readonly #addresses = new Map<Formula, string | null>();
  readonly #exact = new Map<Formula, Exact | null>();
  readonly #allowed = new Map<Formula, readonly string[]>();
  readonly #kinds = new Map<(fact: Fact) => boolean, Map<Formula, boolean>>();
  readonly #determined = new Map<string, (fact: Fact) => boolean>();

  constructor(
    readonly formulas: Formulas,
    readonly facts: readonly Fact[],
    /** Asks the solver about a condition on one subject. */
    readonly canBeMatched: (formula: Formula) => boolean,
  ) {}

  /** Precondition: each of the two can be matched. */
  settle(a: Formula, b: Formula): Meeting {
    if (a === b || (this.isAdditive(a) && this.isAdditive(b))) return 'possible';
    if (a === not(b) || this.#isLacked(a, b) || this.#isLacked(b, a)) return 'exclusive';
    if (this.#isOfNone(a) && this.#isOfNone(b)) return 'possible';
    if (this.#isBeside(a, b) || this.#isBeside(b, a)) return 'possible';
    const parted = this.#meetEach(a, b) ?? this.#meetEach(b, a);
    if (parted) return parted;
    const [first, second] = [this.#exactOf(a), this.#exactOf(b)];
    if (first && second && first.part === second.part && first.folding === second.folding) {
      const [fewer, more] = first.values.size <= second.values.size ? [first, second] : [second, first];
      if (![...fewer.values].some((value) => more.values.has(value))) return 'exclusive';
    }
    const tried = (first && this.#tried(first, a, b)) ?? (second && this.#tried(second, b, a));
    return tried ?? (this.#isSampled(a, b) || this.#isSampled(b, a) ? 'possible' : 'ask');
  }

  /** The members of a disjunction, each with the other condition; null if `a` is none. */
  #meetEach(a: Formula, b: Formula): Meeting | null {
    const node = this.formulas.node(a >> 1);
    if (!('and' in node) || (a & 1) === 0) return null;
    let meeting: Meeting = 'exclusive';
    for (const member of node.and) {
      const met = this.settle(not(member), b);
      if (met === 'possible' && this.canBeMatched(not(member))) return met;
      if (met !== 'exclusive') meeting = 'ask';
    }
    return meeting;
  }

  /** Whether all values that `a` wants are ruled out by a member of `b`: by the field's absence, or by words in them. */
  #isLacked(a: Formula, b: Formula): boolean {
    return this.formulas.conjuncts(b).some((part) => {
      const node = this.formulas.node(part >> 1);
      if ((part & 1) === 0 || !('atom' in node)) return false;
      const fact = elementAt(this.facts, node.atom);
      if (fact.fact === 'present') return this.#wants(a, (wanted) => wanted.fact === 'some');
      if (fact.fact !== 'some' || fact.at) return false;
      const { test, field } = fact;
      return this.#wants(a, (wanted) => {
        return (
          wanted.fact === 'some' &&
          wanted.field === field &&
          wanted.test.part === test.part &&
          covers(test, wanted.test)
        );
      });
    });
  }

  /** Whether a formula can only be true if a fact of this kind is. */
  #wants(formula: Formula, isKind: (fact: Fact) => boolean): boolean {
    const node = this.formulas.node(formula >> 1);
    const isPositive = (formula & 1) === 0;
    if ('atom' in node) return isPositive && isKind(elementAt(this.facts, node.atom));
    return isPositive
      ? node.and.some((part) => this.#wants(part, isKind))
      : node.and.every((part) => this.#wants(not(part), isKind));
  }

  /** Whether `a` wants words in the text of a field and `b` reads its addresses: a display name has room for any words. */
  #isBeside(a: Formula, b: Formula): boolean {
    return this.isAdditive(a) && this.#isKnownOnly(a, isText) && this.#isKnownOnly(b, isOfAddress);
  }

  /** Whether all facts of a formula are of this kind. */
  isOnly(formula: Formula, isKind: (fact: Fact) => boolean): boolean {
    return this.formulas.within(formula).every((number) => {
      const node = this.formulas.node(number);
      return 'and' in node || isKind(elementAt(this.facts, node.atom));
    });
  }

  /** The same, remembered for this function. */
  #isKnownOnly(formula: Formula, isKind: (fact: Fact) => boolean): boolean {
    const known = this.#kinds.get(isKind) ?? new Map<Formula, boolean>();
    this.#kinds.set(isKind, known);
    const found = known.get(formula) ?? this.isOnly(formula, isKind);
    known.set(formula, found);
    return found;
  }

  /** Whether messages without the field match. */
  #isOfNone(formula: Formula): boolean {
    const known = this.#ofNone.get(formula);
    if (known !== undefined) return known;
    const mayLack = (fact: Fact) => 'field' in fact && isHeaderField(fact.field.name) && !fact.field.always;
    const found = this.isOnly(formula, mayLack) && this.formulas.holds(formula, () => false);
    this.#ofNone.set(formula, found);
    return found;
  }

  /** Whether a text, or an address, made of what `a` wants and nothing else matches both. */
  #isSampled(a: Formula, b: Formula): boolean {
    const isOfText = this.#isKnownOnly(a, isText) && this.#isKnownOnly(b, isText);
    if (!isOfText && !(this.#isKnownOnly(a, isAddress) && this.#isKnownOnly(b, isAddress))) return false;
    const sample = isOfText ? this.#sampleOf(a) : this.#addressOf(a);
    if (sample === null) return false;
    const holds = (fact: number) => holdsOf(elementAt(this.facts, fact), isOfText ? 'text' : 'all', sample);
    const known = new Map<number, boolean>();
    return this.formulas.holds(a, holds, known) && this.formulas.holds(b, holds, known);
  }

  /** An address made of the first of what a condition wants. */
  #addressOf(formula: Formula): string | null {
    const known = this.#addresses.get(formula);
    if (known !== undefined) return known;
    const found = this.#makeAddress(formula);
    this.#addresses.set(formula, found);
    return found;
  }

  #makeAddress(formula: Formula): string | null {
    for (const part of this.formulas.conjuncts(formula)) {
      const node = this.formulas.node(part >> 1);
      const fact = (part & 1) === 0 && 'atom' in node ? elementAt(this.facts, node.atom) : null;
      if (fact?.fact !== 'some') continue;
      const [sample] = fact.test.language.samples();
      if (sample === undefined) continue;
      if (fact.test.part === 'domain') return `bob@${sample}`;
      return sample.includes('@') ? sample : `${sample}@hill.example`;
    }
    return null;
  }

  /** The words that an additive condition wants, each once; of several alternatives the first. */
  #sampleOf(formula: Formula): string | null {
    const known = this.#samples.get(formula);
    if (known !== undefined) return known;
    const node = this.formulas.node(formula >> 1);
    let found: string | null;
    if ('atom' in node) {
      const fact = elementAt(this.facts, node.atom);
      found = fact.fact === 'some' ? (fact.test.language.samples()[0] ?? null) : fact.fact === 'present' ? 'a' : null;
    } else if ((formula & 1) === 0) {
      const parts = node.and.map((part) => this.#sampleOf(part));
      found = parts.includes(null) ? null : parts.join(' ');
    } else found = this.#sampleOf(not(elementAt(node.and, 0)));
    this.#samples.set(formula, found);
    return found;
  }

  /** The few values that `a` allows, tried on both; null if they do not say enough about `b`. */
  #tried(exact: Exact, a: Formula, b: Formula): Meeting | null {
    if (!this.#isKnownOnly(a, exact.determines) || !this.#isKnownOnly(b, exact.determines)) return null;
    return this.#allowedBy(a, exact).some((value) => this.#holdsFor(b, exact, value)) ? 'possible' : 'exclusive';
  }

  /** The values that a condition itself allows. */
  #allowedBy(formula: Formula, exact: Exact): readonly string[] {
    const known = this.#allowed.get(formula);
    if (known) return known;
    const found = [...exact.values].filter((value) => this.#holdsFor(formula, exact, value));
    this.#allowed.set(formula, found);
    return found;
  }

  #holdsFor(formula: Formula, { part }: Exact, value: string): boolean {
    return this.formulas.holds(formula, (fact) => holdsOf(elementAt(this.facts, fact), part, value));
  }

  /** Whether whatever is added to a message that matches the formula leaves it matched, so that two such always meet. */
  isAdditive(formula: Formula): boolean {
    const known = this.#additive.get(formula);
    if (known !== undefined) return known;
    const node = this.formulas.node(formula >> 1);
    const found =
      'atom' in node
        ? (formula & 1) === 0 && isAdditive(elementAt(this.facts, node.atom))
        : node.and.length > 0 && node.and.every((part) => this.isAdditive((formula & 1) === 0 ? part : not(part)));
    this.#additive.set(formula, found);
    return found;
  }

  /** The values that a field with one value has under the formula, if it allows few. */
  #exactOf(formula: Formula): Exact | null {
    const known = this.#exact.get(formula);
    if (known !== undefined) return known;
    const found = this.formulas.conjuncts(formula).flatMap((part) => {
      const node = this.formulas.node(part >> 1);
      return 'atom' in node && (part & 1) === 0 ? (this.#exactIn(elementAt(this.facts, node.atom)) ?? []) : [];
    });
    const least = found.sort((a, b) => a.values.size - b.values.size)[0] ?? null;
    this.#exact.set(formula, least);
    return least;
  }

  #exactIn(fact: Fact): Exact | null {
    if (fact.fact !== 'some' || fact.at) return null;
    const { part, language } = fact.test;
    if (!(language instanceof Language) || !isOneValue(fact.field, part)) return null;
    if (!language.patterns.every((pattern) => pattern.every(isOctet))) return null;
    const values = language.patterns.map((pattern) => decoder.decode(Uint8Array.from(pattern.filter(isOctet))));
    const key = `${part} ${language.family}`;
    const determines = this.#determined.get(key) ?? isDetermined(part, language.family);
    this.#determined.set(key, determines);
    return { part, folding: language.family, values: new Set(values), determines };
  }
}

/** The values that one part of a field can have, folded. */
interface Exact {
  readonly part: Part;
  readonly folding: string;
  readonly values: ReadonlySet<string>;
  /** Whether one such value determines a fact. */
  readonly determines: (fact: Fact) => boolean;
}

const decoder = new TextDecoder();
const isOctet = (item: Item): item is number => typeof item === 'number';

/** Under the assumptions of comparisons, messages have at most one such value. */
const isOneValue = ({ single }: Field, part: Part): boolean =>
  part === 'text' ? single === true || single === 'one-from' || single === 'single-fields' : single === 'one-from';

/** The truth of a fact about a field with this value of a part, and nothing else. */
function holdsOf(fact: Fact, part: Part, value: string): boolean {
  if (fact.fact === 'present') return true;
  if (fact.fact !== 'some') throw new Error('no fact about one value');
  const text = partOf(value, part, fact.test.part);
  return text !== null && fact.test.language.has(text);
}

function partOf(value: string, part: Part, wanted: Part): string | null {
  if (part === wanted) return value;
  const at = value.lastIndexOf('@');
  if (wanted === 'localpart') return at < 0 ? value : value.slice(0, at);
  return at < 0 ? null : value.slice(at + 1);
}

function isAdditive(fact: Fact): boolean {
  switch (fact.fact) {
    case 'present':
    case 'over':
      return true;
    case 'some':
      return fact.at === undefined && isAdditiveTest(fact.field, fact.test);
    default:
      return false;
  }
}

function isAdditiveTest({ name, single }: Field, { part, language }: ValueTest): boolean {
  // Another field of this name, or another address in it, leaves the rest as it is.
  if (isHeaderField(name) && (single === null || (part !== 'text' && single !== 'one-from'))) return true;
  if (!(language instanceof Language) || !language.patterns.every(isWithin)) return false;
  return part === 'text' || language.patterns.every(isWord);
}

const isText = (fact: Fact): boolean =>
  fact.fact === 'present' || (fact.fact === 'some' && !fact.at && fact.test.part === 'text');

const isOfAddress = (fact: Fact): boolean => fact.fact === 'some' && isAddress(fact);

/** Whether one value of this part, folded so, determines a fact. */
const isDetermined =
  (part: Part, folding: string) =>
  (fact: Fact): boolean => {
    if (fact.fact === 'present') return true;
    if (fact.fact !== 'some' || fact.at || fact.test.language.family !== folding) return false;
    return fact.test.part === part || (part === 'all' && fact.test.part !== 'text');
  };

const isAddress = (fact: Fact): boolean =>
  fact.fact === 'present' || (fact.fact === 'some' && !fact.at && fact.test.part !== 'text');

/** Whether each text of the second test contains a text that the first looks for, whatever stands around it. */
function covers({ language: first }: ValueTest, { language: second }: ValueTest): boolean {
  if (!(first instanceof Language) || !(second instanceof Language) || first.family !== second.family) return false;
  const { words } = wordsOf(first);
  return wordsOf(second).patterns.every((pattern) => words.some((word) => pattern.includes(word)));
}

interface Words {
  /** All patterns, with the numbers of their octets between blanks. */
  readonly patterns: readonly string[];
  /** The same of texts that are looked for anywhere, without what is around them. */
  readonly words: readonly string[];
}

const words = new WeakMap<Language, Words>();

function wordsOf(language: Language): Words {
  const known = words.get(language);
  if (known) return known;
  const written = (pattern: readonly Item[]) => ` ${pattern.map((item) => (isOctet(item) ? item : '*')).join(' ')} `;
  const within = language.patterns.filter((pattern) => isWithin(pattern) && pattern.slice(1, -1).every(isOctet));
  const found = {
    patterns: language.patterns.map(written),
    words: within.map((pattern) => written(pattern.slice(1, -1))),
  };
  words.set(language, found);
  return found;
}

/** A text with anything before and after it. */
const isWithin = (pattern: readonly Item[]): boolean => pattern[0] === 'star' && pattern.at(-1) === 'star';

/** Letters and digits, with dots and hyphens between them, can stand beside others in any part of an address. */
const isWord = (pattern: readonly Item[]): boolean =>
  /^\*[a-z0-9]+([.-][a-z0-9]+)*\*$/i.test(
    pattern.map((item) => (item === 'star' ? '*' : isOctet(item) ? String.fromCharCode(item) : '?')).join(''),
  );
