import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { partOf, SEPARATOR } from '../sieve/language/headers';
import { comparatorNamed } from '../sieve/match/comparators';
import { RELATIONS, type Relation } from '../text/relation';
import { OctetOrder } from './automata/order-language';
import { PartLanguage } from './automata/part-language';
import { union } from './automata/union';
import { isLanguage, languageOf, type TextTest } from './languages';

const relation = fc.constantFrom('gt', 'ge', 'lt', 'le', 'eq', 'ne') as fc.Arbitrary<Relation>;
const comparator = fc.constantFrom('i;octet', 'i;ascii-casemap', 'i;unicode-casemap', 'i;ascii-numeric');
const text = fc.string({
  unit: fc.constantFrom('a', 'B', 'b', '[', '_', '0', '1', '9', ' ', '-', 'é', 'я', '石', '😀'),
  maxLength: 5,
});
const key = fc.string({ unit: fc.constantFrom('a', 'B', 'b', '[', '0', '1', '9', '-', 'я', '石'), maxLength: 4 });

describe('texts in relation to a key', () => {
  test('as the comparator orders them', () => {
    fc.assert(
      fc.property(comparator, relation, key, text, (name, how, wanted, value) => {
        const { fold, order } = comparatorNamed(name);
        const test: TextTest = { match: 'value', relation: how, comparator: name, keys: [wanted] };
        if (!isLanguage(test)) return;
        const language = languageOf(test);
        expect(language.has(value)).toBe(RELATIONS[how](order(fold(value), fold(wanted))));
      }),
      { numRuns: 20_000 },
    );
  });

  test('a sample is one of them, where there is one', () => {
    fc.assert(
      fc.property(comparator, relation, key, (name, how, wanted) => {
        const test: TextTest = { match: 'value', relation: how, comparator: name, keys: [wanted] };
        if (!isLanguage(test)) return;
        const language = languageOf(test);
        const isLeast = how === 'lt' || (how === 'gt' && name === 'i;ascii-numeric') || how === 'ne';
        if (!isLeast) expect(language.samples().every((sample) => language.has(sample))).toBe(true);
      }),
    );
  });

  test('the union of several is the widest', () => {
    const sided = fc.constantFrom('gt', 'ge', 'lt', 'le') as fc.Arbitrary<Relation>;
    fc.assert(
      fc.property(comparator, sided, fc.array(key, { minLength: 2, maxLength: 4 }), text, (name, how, keys, value) => {
        const tests = keys.map((one): TextTest => ({ match: 'value', relation: how, comparator: name, keys: [one] }));
        const all = tests.filter(isLanguage).map(languageOf);
        if (all.length === 0) return;
        expect(union(all).has(value)).toBe(all.some((one) => one.has(value)));
      }),
      { numRuns: 3000 },
    );
  });

  test('languages of several families have no union', () => {
    const is = languageOf({ match: 'is', comparator: 'i;octet', keys: ['a'] });
    const order = languageOf({ match: 'value', relation: 'ge', comparator: 'i;octet', keys: ['a'] });
    expect(order).toBeInstanceOf(OctetOrder);
    expect(() => union([is, order])).toThrow('several families');
  });
});

test('parts of a local part are those that the interpreter reads (RFC 5233 section 4)', () => {
  const local = fc.string({ unit: fc.constantFrom('a', 'b', '+', 'A'), maxLength: 6 });
  const match = fc.constantFrom('is', 'contains', 'matches') as fc.Arbitrary<'is' | 'contains' | 'matches'>;
  const wanted = fc.string({ unit: fc.constantFrom('a', 'b', '*', '+'), maxLength: 3 });
  fc.assert(
    fc.property(local, match, wanted, fc.constantFrom('user', 'detail'), (value, how, one, part) => {
      const inner = languageOf({ match: how, comparator: 'i;ascii-casemap', keys: [one] });
      const language = new PartLanguage(inner, part === 'user' ? 'before' : 'after', SEPARATOR);
      const read = partOf({ display: '', local: value, domain: 'mill.example' }, part, SEPARATOR);
      expect(language.has(value)).toBe(read !== null && inner.has(read));
    }),
    { numRuns: 5000 },
  );
});
