import { foldAscii, toOctets } from '../../text/fold';
import type { Caseless } from './regex';

/** How a comparator folds text; equality, substring and wildcard matching then use the folded text. */
export interface Comparator {
  readonly name: string;
  /** Null if `require "comparator-..."` is not needed (RFC 5228 section 2.7.3). */
  readonly capability: string | null;
  readonly fold: (text: string) => string;
  /** The letters whose case a regular expression ignores. */
  readonly caseless: Caseless;
  /** Below, at or above 0, for folded text. */
  readonly order: (a: string, b: string) => number;
  /** Whether it supports substrings, as :contains and :matches need (RFC 4790 section 4.2). */
  readonly substring: boolean;
}

const byOctets = (a: string, b: string): number => {
  const [first, second] = [toOctets(a), toOctets(b)];
  return first < second ? -1 : first > second ? 1 : 0;
};

/** One row for each comparator. */
const COMPARATORS: readonly Comparator[] = [
  {
    name: 'i;ascii-casemap',
    capability: null,
    fold: foldAscii,
    caseless: 'ascii',
    // RFC 4790 section 9.2 orders as upper case, so that "[" comes after "M".
    order: (a, b) => byOctets(upperAscii(a), upperAscii(b)),
    substring: true,
  },
  { name: 'i;octet', capability: null, fold: (text) => text, caseless: 'none', order: byOctets, substring: true },
  {
    name: 'i;ascii-numeric',
    capability: 'comparator-i;ascii-numeric',
    fold: foldNumber,
    caseless: 'none',
    order: orderNumbers,
    substring: false,
  },
  {
    name: 'i;unicode-casemap',
    capability: 'comparator-i;unicode-casemap',
    // RFC 5051 section 2: titlecase character by character, then full decomposition.
    fold: (text) => titlecase(text).normalize('NFKD'),
    caseless: 'unicode',
    order: byOctets,
    substring: true,
  },
];

/** RFC 5228 section 2.7.3: the default without :comparator. */
export const DEFAULT_COMPARATOR = 'i;ascii-casemap';

export function maybeComparator(name: string): Comparator | null {
  return COMPARATORS.find((comparator) => comparator.name === name) ?? null;
}

/** The comparator of a checked name; throws for any other. */
export function comparatorNamed(name: string): Comparator {
  const found = maybeComparator(name);
  if (!found) throw new Error(`unknown comparator ${name}`);
  return found;
}

export const comparatorNames = (): readonly string[] => COMPARATORS.map((comparator) => comparator.name);
export const comparatorCapabilities = (): readonly string[] =>
  COMPARATORS.map((comparator) => `comparator-${comparator.name}`);

const upperAscii = (text: string): string => text.replace(/[a-z]+/g, (run) => run.toUpperCase());

/**
 * Simple titlecase, which maps one character to one: "ß" is not "SS". Where toUpperCase gives several, the simple mapping
 * is the one with an iota below, or none.
 */
function titlecase(text: string): string {
  return text.replace(/\p{Changes_When_Uppercased}+/gu, (run) => {
    const upper = run.toUpperCase();
    return upper.length === run.length ? upper : Array.from(run, titleCharacter).join('');
  });
}

function titleCharacter(character: string): string {
  const upper = character.toUpperCase();
  if (upper.length === character.length) return upper;
  // U+1FB3 is an alpha with an iota below, as U+1FBC is; the other letters are eight apart.
  const code = character.charCodeAt(0);
  if (code === 0x1fb3 || code === 0x1fc3 || code === 0x1ff3) return String.fromCharCode(code + 9);
  return code >= 0x1f80 && code <= 0x1fa7 ? String.fromCharCode(code | 8) : character;
}

const INFINITY = '∞';

/** RFC 4790 section 9.1: the digits at the start, of any length; without any it is positive infinity. */
function foldNumber(text: string): string {
  const digits = /^[0-9]+/.exec(text)?.[0];
  return digits === undefined ? INFINITY : digits.replace(/^0+(?=.)/, '');
}

function orderNumbers(a: string, b: string): number {
  if (a === b) return 0;
  if (a === INFINITY) return 1;
  if (b === INFINITY) return -1;
  if (a.length !== b.length) return a.length - b.length;
  return a < b ? -1 : 1;
}
