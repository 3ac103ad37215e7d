import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { addressPart, addressText, parseAddressList } from '../mail/address';
import { trimmed } from '../mail/headers';
import { compileMatcher } from '../sieve/match/matcher';
import { findValue, type Part, type ValueTest } from './automata/values';
import { isLanguage, languageOf, type TextTest } from './languages';

type PlainTest = Exclude<TextTest, { match: 'value' }>;
type Wanted = PlainTest & { readonly part: Part };

/** The same question answered by the interpreter's matcher. */
function holds(value: string, { part, match, comparator, keys }: Wanted): boolean {
  const matcher = compileMatcher(comparator, match, keys);
  if (part === 'text') return matcher(value) !== null;
  return parseAddressList(value).some((address) => {
    const seen = addressPart(address, part);
    return seen !== null && matcher(seen) !== null;
  });
}

const valueTest = ({ part, ...test }: Wanted): ValueTest => ({ part, language: languageOf(test) });

function words(alphabet: readonly string[], length: number): string[] {
  let layer = [''];
  const all = [''];
  for (let at = 0; at < length; at++) {
    layer = layer.flatMap((word) => alphabet.map((character) => word + character));
    for (const word of layer) all.push(word);
  }
  return all;
}

const comparator = fc.constantFrom('i;ascii-casemap', 'i;ascii-casemap', 'i;octet', 'i;unicode-casemap');
const match = fc.constantFrom<PlainTest['match'][]>('is', 'contains', 'matches');
const anyTest = (parts: readonly Part[], key: fc.Arbitrary<string>): fc.Arbitrary<Wanted> =>
  fc.record({
    part: fc.constantFrom(...parts),
    match,
    comparator,
    keys: fc.array(key, { minLength: 1, maxLength: 3 }),
  });
const query = (test: fc.Arbitrary<Wanted>) =>
  fc
    .record({ some: fc.array(test, { maxLength: 3 }), none: fc.array(test, { maxLength: 3 }) })
    .filter(({ some, none }) => [...some, ...none].every(isLanguage));

describe('values that are found, and those that are not, against all short values and the matcher of the interpreter', () => {
  test('plain text', () => {
    const all = words(['a', 'b', 'A', ' ', 'é'], 5).filter((word) => word === word.trim());
    const key = fc.string({ unit: fc.constantFrom('a', 'b', 'A', ' ', 'é', '*', '?'), maxLength: 3 });
    let [found, none] = [0, 0];
    fc.assert(
      fc.property(query(anyTest(['text'], key)), ({ some, none: not }) => {
        const answer = findValue({ shape: 'text', some: some.map(valueTest), none: not.map(valueTest) });
        const meets = (value: string) =>
          some.every((one) => holds(value, one)) && !not.some((one) => holds(value, one));
        if (answer.found === 'value') {
          found++;
          const { text } = answer.value;
          expect(meets(text)).toBe(true);
          expect(text).toBe(text.trim());
        } else {
          expect(answer.found).toBe('none');
          none++;
          expect(all.filter(meets)).toEqual([]);
        }
      }),
      { numRuns: 1500 },
    );
    expect(Math.min(found, none)).toBeGreaterThan(150);
  });

  test.each(['mailbox', 'mailboxes', 'path'] as const)('%s', (shape) => {
    const small = { mailbox: 7, mailboxes: 7, path: 6 }[shape];
    const all = words(
      ['a', '@', 'b', ...(shape === 'path' ? ['.'] : ['<', '>', ' ']), ...(shape === 'mailboxes' ? [','] : [])],
      small,
    ).filter((word) => isPlain(shape, word));
    const key = fc.string({ unit: fc.constantFrom('a', 'b', '@', '.', '*', ' '), maxLength: 3 });
    const parts: Part[] = shape === 'path' ? ['all', 'localpart', 'domain'] : ['text', 'all', 'localpart', 'domain'];
    let [found, none] = [0, 0];
    fc.assert(
      fc.property(query(anyTest(parts, key)), ({ some, none: not }) => {
        const answer = findValue({ shape, some: some.map(valueTest), none: not.map(valueTest) });
        const meets = (value: string) =>
          some.every((one) => holds(value, one)) && !not.some((one) => holds(value, one));
        if (answer.found === 'value') {
          found++;
          const { text } = answer.value;
          expect([text, meets(text)]).toEqual([text, true]);
        } else {
          expect(answer.found).toBe('none');
          none++;
          expect(all.filter(meets)).toEqual([]);
        }
      }),
      { numRuns: 600 },
    );
    expect(Math.min(found, none)).toBeGreaterThan(50);
  });
});

/** Whether a value is well formed, decided by the address parser instead of the automaton. */
function isPlain(shape: 'mailbox' | 'mailboxes' | 'path', word: string): boolean {
  const parts = shape === 'mailboxes' ? word.split(/, */) : [word];
  return parts.every((part) => {
    const [address, more] = parseAddressList(part);
    if (!address || more || !address.local || !address.domain || /^\.|\.\.|\.$/.test(address.local)) return false;
    const text = `${address.local}@${address.domain}`;
    return (
      part === text ||
      (shape !== 'path' && part.endsWith(`<${text}>`) && !/^ |[<>@,]/.test(part.slice(0, -text.length - 2)))
    );
  });
}

test('any text with the addresses that the reader sees in it is a value, where they stand in it', () => {
  const alphabet = [
    'a',
    'b',
    '@',
    '.',
    '"',
    '\\',
    '(',
    ')',
    '<',
    '>',
    ',',
    ':',
    ';',
    '[',
    ']',
    ' ',
    '\u0001',
    '\u00a0',
  ];
  const is = (part: Part, key: string) => valueTest({ part, match: 'is', comparator: 'i;octet', keys: [key] });
  let [seen, hidden] = [0, 0];
  fc.assert(
    fc.property(fc.string({ unit: fc.constantFrom(...alphabet, 'a', 'b', '@'), maxLength: 9 }), (raw) => {
      const text = trimmed(raw);
      const addresses = parseAddressList(text);
      for (const address of addresses) {
        const all = addressText(address);
        if (!text.includes(all) || all === '' || all.includes('"')) {
          hidden++;
          continue;
        }
        seen++;
        const parts = [is('all', all), is('localpart', address.local)];
        if (address.domain !== null) parts.push(is('domain', address.domain));
        const whole = is('text', text);
        const once = findValue({ shape: 'addressed once', some: [whole, ...parts], none: [] });
        expect([text, all, once.found]).toEqual([text, all, 'value']);
        expect(findValue({ shape: 'address', some: parts, none: [] }).found).toBe('value');
        if (address.domain === null) continue;
        expect(findValue({ shape: 'address', some: parts, none: [is('domain', address.domain)] }).found).toBe('none');
      }
      const wanted = [...new Set(addresses.map(addressText))].filter((all) => all !== '' && !all.includes('"'));
      if (wanted.length < 2 || addresses.some((one) => !text.includes(addressText(one)))) return;
      // Each has a place of its own.
      const several = findValue({
        shape: 'addressed',
        some: [is('text', text), ...wanted.map((all) => is('all', all))],
        none: [],
      });
      expect([text, several.found]).toEqual([text, 'value']);
    }),
    { numRuns: 6000 },
  );
  expect(Math.min(seen, hidden)).toBeGreaterThan(100);
});

test('there is always a character that no test knows, of each length', () => {
  const letters = [...'abcdefghijklmnopqrstuvwxyz0123456789'];
  const contains = (keys: readonly string[], comparator = 'i;ascii-casemap') =>
    valueTest({ part: 'text', match: 'contains', comparator, keys });
  const one = valueTest({ part: 'text', match: 'matches', comparator: 'i;octet', keys: ['?'] });
  const two = valueTest({ part: 'text', match: 'matches', comparator: 'i;octet', keys: ['??'] });
  expect(findValue({ shape: 'text', some: [one], none: [contains([...letters, ...' -.@<>,":;[]('])] }).found).toBe(
    'value',
  );
  expect(
    findValue({
      shape: 'text',
      some: [two],
      none: [contains([...letters, ...' !#$%&\'*+/=?^_`{|}~-.@<>,":;[]()\\'], 'i;unicode-casemap')],
    }).found,
  ).toBe('value');
});
