import { elementAt } from '../../text/lookup';
import { dateText } from '../automata/calendar';
import type { ShapeName } from '../automata/shapes';
import { union } from '../automata/union';
import { EMPTY, type FoundValue, findValue, maybeNaturalValue, type Value, type ValueTest } from '../automata/values';
import { type AskedField, askedOf, type Counted } from './asked-field';
import { type Assumption, type Assumptions, NATURAL } from './assumptions';
import type { Assigned, Conflict, Fact, Field, Position } from './fields';
import type { Moments } from './moments';
import { smallest } from './smallest';

type Found =
  | { readonly values: readonly Value[] }
  /** Sets of facts, each of them impossible under the assumptions. */
  | { readonly conflicts: readonly (readonly number[])[] }
  | { readonly gaveUp: readonly number[] };

/** Positive facts that one occurrence of the field must meet, and facts that it must not meet. */
interface Demand {
  readonly some: readonly number[];
  readonly none: readonly number[];
  /** Tests of values at single positions, which need not be this one's. */
  readonly avoid: readonly number[];
  /** Facts for which these must be met at all, or by one occurrence. */
  readonly because: readonly number[];
}

/** Values of one field that meet all facts about it, or the facts that conflict. */
export class FieldValues {
  readonly #found = new Map<string, FoundValue>();

  constructor(
    readonly facts: readonly Fact[],
    readonly moments: Moments,
    readonly checkpoint: () => void,
  ) {}

  /** Natural values if possible, else values that keep the assumptions; or conflicts with the assumptions they need. */
  of(
    field: Field,
    indexes: readonly number[],
    assigned: Assigned,
    assumed: Assumptions,
  ):
    | { readonly values: readonly Value[] }
    | { readonly conflicts: readonly Conflict[] }
    | { gaveUp: readonly number[] } {
    const asked = askedOf(this.facts, field, indexes, assigned);
    const natural = this.#under(asked, NATURAL);
    if ('values' in natural) return natural;
    const found = assumed.has('well-formed') ? natural : this.#under(asked, assumed);
    if (!('conflicts' in found)) return found;
    return { conflicts: found.conflicts.map((facts) => this.#weakest(field, facts, assigned, assumed)) };
  }

  /** The conflict with as few assumptions as possible. */
  #weakest(field: Field, facts: readonly number[], assigned: Assigned, assumed: Assumptions): Conflict {
    const asked = askedOf(this.facts, field, facts, assigned);
    const own = relevantTo(asked).filter((one) => assumed.has(one));
    for (const some of subsetsOf(own.filter((one) => one !== 'well-formed'))) {
      const found = this.#under(asked, new Set(some));
      if ('conflicts' in found) return { facts: elementAt(found.conflicts, 0), assumes: some };
    }
    return { facts, assumes: own };
  }

  #under(asked: AskedField, assumed: Assumptions): Found {
    const { field, some, none, present, bounds } = asked;
    const isStrict = assumed.has('well-formed');
    const wanted = [...some, ...asked.at.map(({ index }) => index)];
    const isDated = asked.dated.length + asked.notDated.length > 0;
    if (present?.truth === false) {
      const { index } = present;
      const wanting = [...wanted, ...asked.dated, ...bounds.wanting];
      if (wanting.length > 0) return { conflicts: wanting.map((one) => [index, one]) };
      return isStrict && field.required ? { conflicts: [[index]] } : { values: [] };
    }
    const isSingle = field.single === true || (field.single !== null && assumed.has(field.single));
    const counted = bounds.under(isSingle, field.single === 'one-from' && assumed.has('one-from'));
    if ('conflict' in counted) return { conflicts: [counted.conflict] };
    const pairs = this.#pairs(asked, wanted, assumed);
    if (pairs.length > 0) return { conflicts: pairs };
    const texts = this.#texts(asked, assumed, counted);
    if (!('values' in texts)) return texts;
    const values = [...texts.values];
    const dates = this.#dates(asked, counted);
    if (!('values' in dates)) return dates;
    if (counted.most === 1 && dates.values.length > 0 && values.length > 0) {
      if (wanted.length > 0) return { gaveUp: asked.all };
      values.length = 0;
    }
    values.push(...dates.values);
    const distinct = asked.at.length > 0 || bounds.least.times > 1 ? values : [...new Set(values)];
    if (distinct.length > counted.most) return { gaveUp: asked.all };
    if (distinct.length === 0 && field.natural.length > 0 && isStrict && !isDated) {
      const natural = this.#find(asked, this.#shape(asked, [], assumed, counted.isJoint), [], none, isStrict);
      return { values: natural.found === 'value' ? [natural.value] : [] };
    }
    return this.#withAddresses(asked, distinct, counted.addresses);
  }

  /** Values for all tests of texts and addresses. */
  #texts(asked: AskedField, assumed: Assumptions, counted: Counted): Found {
    const found = this.#allMet(asked, this.#demands(asked, assumed, counted, false), assumed, counted);
    if (!('gaveUp' in found) || asked.notAt.length === 0 || counted.most < Number.POSITIVE_INFINITY) return found;
    // With other values at the excluded positions, nothing else has to avoid their tests.
    const padded = this.#allMet(asked, this.#demands(asked, assumed, counted, true), assumed, counted);
    return 'values' in padded ? padded : found;
  }

  #allMet(asked: AskedField, demands: readonly Demand[], assumed: Assumptions, { isJoint }: Counted): Found {
    const isMixed = asked.hasAddresses && asked.field.loose !== 'address' && !assumed.has('well-formed');
    const values: Value[] = [];
    for (const demand of demands) {
      const found = this.#met(asked, demand, assumed, isJoint);
      if (!('value' in found)) return found;
      const isHidden = isMixed && demand.some.every(this.#isText);
      values.push(isHidden ? { ...found.value, addresses: 'hidden' } : found.value);
    }
    return { values };
  }

  /** Values that end with a date. */
  #dates(asked: AskedField, counted: Counted): Found {
    const found = this.moments.forField(asked, counted);
    if (!('moments' in found)) return found;
    const isDate = asked.field.name === 'date';
    const values = found.moments.map((moment): Value => {
      return { text: isDate ? dateText(moment) : `by mail.home.example; ${dateText(moment)}`, names: [] };
    });
    const forbidden = asked.none.filter(this.#isText).map(this.#testOf);
    // The text of a date is not searched for.
    const isForbidden = values.some(({ text }) => forbidden.some(({ language }) => language.has(text)));
    return isForbidden ? { gaveUp: asked.all } : { values };
  }

  /**
   * What the occurrences must meet, in the order in which they are written; `isPadded` if all positions that tests speak
   * of have values of their own.
   */
  #demands(asked: AskedField, assumed: Assumptions, counted: Counted, isPadded: boolean): Demand[] {
    const { field, some, none, at, bounds } = asked;
    const isTied = assumed.has('plain-address') || assumed.has('well-formed') || field.loose === 'address';
    const presence = this.#presence(asked, assumed);
    if (counted.most === 1) {
      const all = [...some, ...at.map(({ index }) => index)];
      const first = asked.notAt.flatMap(({ index, at: { number } }) => (number === 1 ? [index] : []));
      if (all.length === 0 && presence === null) return [];
      const isCounted = all.length > 1 || first.length > 0;
      const because = [...(isCounted ? counted.why : []), ...(all.length === 0 ? (presence ?? []) : [])];
      const demand = (group: readonly number[]): Demand => ({
        some: group,
        none: [...none, ...first],
        avoid: [],
        because,
      });
      if (isTied || all.length === 0) return [demand(all)];
      const [texts, addresses] = [all.filter(this.#isText), all.filter((one) => !this.#isText(one))];
      const groups = counted.isJoint ? [addresses] : addresses.map((one) => [one]);
      return [texts, ...groups].filter((group) => group.length > 0).map(demand);
    }
    const avoid = isPadded ? [] : asked.notAt.map(({ index }) => index);
    const joint = counted.isJoint ? some.filter((one) => !this.#isText(one)) : [];
    const demand = (group: readonly number[], because: readonly number[]): Demand => ({
      some: group,
      none,
      avoid,
      because,
    });
    const free = [
      ...(joint.length > 0 ? [demand(joint, counted.why)] : []),
      ...some.filter((one) => !joint.includes(one)).map((one) => demand([one], [])),
    ];
    const slots = (fromEnd: boolean): Demand[] => {
      const here = at.filter((one) => one.at.fromEnd === fromEnd);
      const excluded = isPadded ? asked.notAt.filter((one) => one.at.fromEnd === fromEnd) : [];
      const last = [...here, ...excluded].reduce((most, one) => Math.max(most, one.at.number), 0);
      const forcing = here.filter((one) => one.at.number === last).map(({ index }) => index);
      return Array.from({ length: last }, (_, place): Demand => {
        const isHere = (one: { readonly at: Position }) => one.at.fromEnd === fromEnd && one.at.number === place + 1;
        const wanted = here.filter(isHere).map(({ index }) => index);
        const own = asked.notAt.filter(isHere).map(({ index }) => index);
        const others = avoid.filter((one) => !own.includes(one));
        return { some: wanted, none: [...none, ...own], avoid: others, because: wanted.length === 0 ? forcing : [] };
      });
    };
    const [first, last] = [slots(false), slots(true).reverse()];
    const least = Math.max(bounds.least.times, presence === null ? 0 : 1);
    const because = bounds.least.times > 1 ? bounds.least.facts : (presence ?? []);
    const missing = Math.max(0, least - first.length - free.length - last.length);
    return [...first, ...free, ...Array.from({ length: missing }, () => demand([], because)), ...last];
  }

  /** The facts for which the field must be there, although no test wants a value; null if it may be absent. */
  #presence({ field, present, bounds }: AskedField, assumed: Assumptions): readonly number[] | null {
    if (present?.truth) return [present.index];
    if (field.always) return [];
    if (bounds.wanting.length > 0) return bounds.wanting.slice(0, 1);
    return assumed.has('well-formed') && field.required ? [] : null;
  }

  readonly #isText = (index: number): boolean => {
    const fact = elementAt(this.facts, index);
    return fact.fact === 'some' && fact.test.part === 'text';
  };

  #met(
    asked: AskedField,
    { some, none, avoid, because }: Demand,
    assumed: Assumptions,
    isJoint: boolean,
  ): { readonly value: Value } | { readonly conflicts: number[][] } | { readonly gaveUp: number[] } {
    const isStrict = assumed.has('well-formed');
    const shape = this.#shape(asked, some, assumed, isJoint);
    const relevant = this.#relevant(shape, [...none, ...avoid]);
    const natural = some.length < 2 ? null : this.#maybeNatural(asked, shape, some, relevant, isStrict);
    if (natural?.found === 'value') return { value: natural.value };
    const [wanted, unwanted] = this.#smaller(asked, shape, some, relevant, isStrict) ?? [some, relevant];
    const found = this.#find(asked, shape, wanted, unwanted, isStrict);
    if (found.found === 'value') return { value: found.value };
    if (found.found === 'gave up') return { gaveUp: [...because, ...wanted, ...unwanted] };
    const core = this.#core(asked, shape, wanted, unwanted, isStrict);
    // One value that conflicts with what no value may be does so however many there are.
    const isOfOne = core.filter((one) => some.includes(one)).length === 1;
    const isOfAny = core.every((one) => some.includes(one) || asked.none.includes(one));
    const facts = [...new Set([...(isOfOne && isOfAny ? [] : because), ...core])];
    return avoid.some((one) => core.includes(one)) ? { gaveUp: facts } : { conflicts: [facts] };
  }

  /** The forbidden tests that a value of the shape can meet at all. */
  #relevant(shape: ShapeName, none: readonly number[]): readonly number[] {
    if (shape === 'any text' || shape === 'text' || shape === 'lines') return none.filter(this.#isText);
    return shape === 'address' ? none.filter((one) => !this.#isText(one)) : none;
  }

  #shape(
    { field, hasAddresses }: AskedField,
    some: readonly number[],
    assumed: Assumptions,
    isJoint: boolean,
  ): ShapeName {
    const isStrict = assumed.has('well-formed');
    if (field.loose === 'address') return isStrict ? field.strict : 'address';
    if (isStrict && (field.strict !== 'text' || !hasAddresses)) return field.strict;
    if (some.every(this.#isText)) return isStrict ? field.strict : field.loose;
    if (!isStrict && !assumed.has('plain-address')) return 'address';
    // Any other address in the text would only be one more that no forbidden test may match.
    const isOne = some.filter((one) => !this.#isText(one)).length === 1;
    return isJoint || isOne ? 'addressed once' : 'addressed';
  }

  /**
   * Tries each wanted test with one forbidden test: most conflicts involve two tests, and small products find those
   * fast. Two tests of texts, or two of addresses, conflict under no assumptions.
   */
  #pairs(asked: AskedField, some: readonly number[], assumed: Assumptions): number[][] {
    const { field, none } = asked;
    const isTied = assumed.has('plain-address') || assumed.has('well-formed');
    const shapeOf = (wanted: number, unwanted: number): ShapeName | null => {
      if (field.loose === 'address') return 'address';
      const [first, second] = [this.#isText(wanted), this.#isText(unwanted)];
      if (first) return second ? field.loose : null;
      return second ? (isTied ? 'addressed once' : null) : 'address';
    };
    return some.flatMap((wanted) =>
      none.flatMap((one) => {
        const shape = shapeOf(wanted, one);
        if (shape === null || this.#isShown(asked, shape, wanted, one)) return [];
        return this.#find(asked, shape, [wanted], [one], false).found === 'none' ? [[wanted, one]] : [];
      }),
    );
  }

  /** Whether a natural text, which is asked for later anyway, shows that two tests of texts do not conflict. */
  #isShown(asked: AskedField, shape: ShapeName, wanted: number, unwanted: number): boolean {
    const { strict } = asked.field;
    if (shape !== 'any text' || strict !== 'text') return false;
    return this.#maybeNatural(asked, strict, [wanted], [unwanted], true)?.found === 'value';
  }

  /** Conflicting facts found by a product of fewer automata than all. */
  #smaller(
    asked: AskedField,
    shape: ShapeName,
    some: readonly number[],
    none: readonly number[],
    isStrict: boolean,
  ): [readonly number[], readonly number[]] | null {
    if (some.length < 2) return null;
    const isNone = (wanted: readonly number[], unwanted: readonly number[]) =>
      this.#find(asked, shape, wanted, unwanted, isStrict).found === 'none';
    if (isNone(some, [])) return [some, []];
    const only = some.find((one) => isNone([one], none));
    return only === undefined ? null : [[only], none];
  }

  /** A small set of facts that conflict. */
  #core(
    asked: AskedField,
    shape: ShapeName,
    some: readonly number[],
    none: readonly number[],
    isStrict: boolean,
  ): number[] {
    return smallest([...some, ...none], (kept) => {
      const [wanted, unwanted] = [some.filter((one) => kept.includes(one)), none.filter((one) => kept.includes(one))];
      // If no fact wants a value, the field may be absent.
      if (some.length > 0 && wanted.length === 0) return false;
      return this.#find(asked, shape, wanted, unwanted, isStrict).found === 'none';
    });
  }

  /** A value for all tests at once, if a natural one answers them; null says nothing. */
  #maybeNatural(
    { field }: AskedField,
    shape: ShapeName,
    some: readonly number[],
    none: readonly number[],
    isStrict: boolean,
  ): FoundValue | null {
    const key = keyOf(field, shape, some, none, isStrict);
    const known = this.#found.get(key);
    if (known) return known;
    const found = maybeNaturalValue({ shape, ...this.#testsOf(some, none), natural: field.natural });
    if (found?.found === 'value') this.#found.set(key, found);
    return found;
  }

  #testsOf(some: readonly number[], none: readonly number[]) {
    return { some: some.map(this.#testOf), none: together(none.map(this.#testOf)) };
  }

  #find(
    { field }: AskedField,
    shape: ShapeName,
    some: readonly number[],
    none: readonly number[],
    isStrict: boolean,
  ): FoundValue {
    const key = keyOf(field, shape, some, none, isStrict);
    const known = this.#found.get(key);
    if (known) return known;
    this.checkpoint();
    const tests = this.#testsOf(some, none);
    let found = findValue({ shape, ...tests, natural: field.natural });
    if (found.found !== 'value' && field.loose === 'address' && (!isStrict || field.mayBeEmpty)) {
      // An empty path is empty whatever part is asked for.
      const isMet = ({ language }: ValueTest) => language.has('');
      if (tests.some.every(isMet) && !tests.none.some(isMet)) found = { found: 'value', value: EMPTY };
    }
    this.#found.set(key, found);
    return found;
  }

  readonly #testOf = (index: number): ValueTest => {
    const fact = elementAt(this.facts, index);
    if (fact.fact !== 'some') throw new Error('no test of a value');
    return fact.test;
  };

  /** Values with as many more addresses as are wanted. */
  #withAddresses(asked: AskedField, values: readonly Value[], least: number): Found {
    if (least < 2) return { values };
    const tests = asked.none.map(this.#testOf);
    const last = values.at(-1) ?? EMPTY;
    let { text } = last;
    for (let number = 1; number <= least; number++) {
      const [local, domain] = [`friend${number}`, 'people.example'];
      const parts = { all: `${local}@${domain}`, localpart: local, domain };
      if (tests.some(({ part, language }) => part !== 'text' && language.has(parts[part])))
        return { gaveUp: asked.all };
      text = text === '' ? parts.all : `${text}, ${parts.all}`;
    }
    if (tests.some(({ part, language }) => part === 'text' && language.has(text))) return { gaveUp: asked.all };
    return { values: [...values.slice(0, -1), { ...last, text, addresses: 'seen' }] };
  }
}

const keyOf = (
  { name }: Field,
  shape: ShapeName,
  some: readonly number[],
  none: readonly number[],
  isStrict: boolean,
): string => `${shape} ${isStrict} ${name} ${some.join(' ')} not ${none.join(' ')}`;

/** The assumptions that can matter to facts about one field. */
function relevantTo({ field, hasAddresses, hasTexts }: AskedField): Assumption[] {
  const own: Assumption[] = [];
  if (field.single !== null && field.single !== true && field.single !== 'well-formed') own.push(field.single);
  if (hasAddresses && hasTexts && field.loose !== 'address') own.push('plain-address');
  own.push('well-formed');
  return own;
}

/** All subsets, smaller ones first. */
function subsetsOf(all: readonly Assumption[]): Assumption[][] {
  const sets: Assumption[][] = [[]];
  for (const one of all) sets.push(...sets.map((set) => [...set, one]));
  return sets.sort((a, b) => a.length - b.length);
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
