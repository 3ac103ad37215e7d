import { DEFAULT_COMPARATOR, maybeComparator } from '../sieve/match/comparators';
import { elementAt } from '../text/lookup';
import type { Relation } from '../text/relation';
import { type Automaton, type Folding, type Item, Language } from './automata/language';
import { NumberOrder, OctetOrder } from './automata/order-language';
import { isRegexLanguage, RegexLanguage } from './regex-language';

/** A comparison of text (RFC 5228 section 2.7), or its order relative to a single key (RFC 5231 section 4.1). */
export type TextTest =
  | {
      readonly match: 'is' | 'contains' | 'matches' | 'regex';
      readonly comparator: string;
      readonly keys: readonly string[];
    }
  | {
      readonly match: 'value';
      readonly relation: Relation;
      readonly comparator: string;
      readonly keys: readonly [string];
    };

const ASTERISK = 42;
const QUESTION = 63;
const BACKSLASH = 92;
const encoder = new TextEncoder();

/** The texts for which a comparison holds. Throws for a comparison that `isLanguage` refuses. */
export function languageOf(test: TextTest): Automaton {
  const { comparator: name, keys } = test;
  const comparator = maybeComparator(name);
  if (!comparator || !isLanguage(test)) throw new Error(`no language for ${name}`);
  if (test.match === 'value') {
    const [key] = test.keys;
    if (name === NUMERIC) return new NumberOrder(test.relation, key, comparator);
    // i;ascii-casemap orders as upper case (RFC 4790 section 9.2).
    const fold = name === DEFAULT_COMPARATOR ? upperAscii : comparator.fold;
    return new OctetOrder(test.relation, key, { name, fold }, comparator, lettersOf([key], name, 'value'));
  }
  const { match } = test;
  if (match === 'regex') return new RegexLanguage(keys, comparator.caseless);
  const folding: Folding = { name, fold: comparator.fold };
  const patterns = keys.map((key) => patternOf(match, encoder.encode(comparator.fold(key))));
  return new Language(folding, patterns, lettersOf(keys, name, match));
}

const NUMERIC = 'i;ascii-numeric';

const upperAscii = (text: string): string => text.replace(/[a-z]+/g, (run) => run.toUpperCase());

/**
 * Whether a comparison describes a set of texts that an automaton over single characters can decide. i;unicode-casemap
 * decomposes letters and orders their accents, so keys with accents are excluded: a text could have the same accents in
 * another order.
 */
export function isLanguage({ match, comparator: name, keys }: TextTest): boolean {
  const comparator = maybeComparator(name);
  if (!comparator) return false;
  if (name === NUMERIC) return match === 'value';
  if (match === 'regex') return comparator.caseless !== 'unicode' && keys.every(isRegexLanguage);
  if (name !== 'i;unicode-casemap') return true;
  // Which of several accents comes first decides about the order relative to some letters.
  if (match === 'value') return keys.every((key) => /^[ -~]*$/.test(comparator.fold(key)));
  return keys.every((key) => !/\p{M}/u.test(comparator.fold(key)) && (match !== 'matches' || !/\?/.test(key)));
}

function patternOf(match: 'is' | 'contains' | 'matches', octets: Uint8Array): Item[] {
  if (match === 'is') return [...octets];
  if (match === 'contains') return ['star', ...octets, 'star'];
  const items: Item[] = [];
  for (let at = 0; at < octets.length; at++) {
    const octet = elementAt(octets, at);
    if (octet === ASTERISK) items.push('star');
    else if (octet === QUESTION) items.push('any');
    else if (octet === BACKSLASH && at + 1 < octets.length) items.push(elementAt(octets, ++at));
    else items.push(octet);
  }
  return items;
}

/**
 * The offset of full-width forms from US-ASCII, and the first of the mathematical letters (NFKD maps both to US-ASCII).
 */
const FULL_WIDTH = 0xfee0;
const MATHEMATICAL = 0x1d5a0;

/** The characters of keys in both cases, and for i;unicode-casemap others that fold to the same character. */
function lettersOf(keys: readonly string[], comparator: string, match: string): Set<string> {
  const letters = new Set<string>();
  for (const key of keys) {
    for (const character of match === 'matches' ? key.replace(/\\([\s\S])|[*?]/g, '$1') : key) {
      letters.add(character);
      if (comparator === 'i;octet') continue;
      const both = [character.toLowerCase(), character.toUpperCase()];
      const folded = comparator === DEFAULT_COMPARATOR ? both.filter((one) => one <= '\u007f') : both;
      for (const one of folded) if ([...one].length === 1) letters.add(one);
      const code = character.codePointAt(0) ?? 0;
      if (comparator === 'i;unicode-casemap' && code > 32 && code < 127) {
        letters.add(String.fromCodePoint(code + FULL_WIDTH));
        if (/[A-Z]/i.test(character)) letters.add(String.fromCodePoint(MATHEMATICAL + ((code - 1) & 31)));
      }
    }
  }
  return letters;
}
