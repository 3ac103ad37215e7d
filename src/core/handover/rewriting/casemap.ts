import type { LeafTest, TestTree } from '../../rules/rule';
import { maybeComparator } from '../../sieve/match/comparators';
import { byTests, leaf } from './transformation';

const UNICODE = 'i;unicode-casemap';

/**
 * Without i;unicode-casemap (RFC 5051): by i;ascii-casemap, with each key in small letters, in capitals and with its words in capitals
 * at their beginning, where it holds letters beyond ASCII. Other mixtures, and letters composed in another way, are missed.
 */
export const withoutUnicodeCasemap = byTests(
  maybeComparator(UNICODE)?.capability ?? '',
  'letters beyond ASCII must be written as in the rule, or all small or large',
  inAscii,
);

function inAscii(test: LeafTest): TestTree {
  if (!('keys' in test) || test.comparator !== UNICODE) return leaf(test);
  return leaf({ ...test, comparator: 'i;ascii-casemap', keys: [...new Set(test.keys.flatMap(spellings))] });
}

function spellings(key: string): string[] {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: what is not ASCII
  if (/^[\x00-\x7f]*$/.test(key)) return [key];
  const small = key.toLowerCase();
  const begun = small.replace(/(^|[^\p{L}\p{M}])(\p{L})/gu, (_, before, letter) => before + letter.toUpperCase());
  return [key, small, key.toUpperCase(), begun];
}
