import { bind } from '../sieve/language/bind';
import { comparatorOf } from '../sieve/language/shared';
import { tests } from '../sieve/language/table';
import { writtenTest } from './nodes';
import type { AddressPart } from './rule';

/** What a test by regular expressions compares (draft-ietf-sieve-regex): header fields as they are, or addresses in them. */
export interface RegexMatch {
  readonly match: 'regex';
  readonly comparator: string;
  readonly keys: readonly string[];
  readonly fields: readonly string[];
  readonly part: 'text' | AddressPart;
}

/** Tags that make it another question: which occurrence, or which part of a message. */
const PLAIN = /^(regex|comparator|all|localpart|domain)$/;

/** The comparison of a `header` or `address` test by regular expressions; null for any other test. */
export function maybeRegexMatch(text: string): RegexMatch | null {
  const node = writtenTest(text);
  const definition = tests.get(node.name);
  if (!definition || (node.name !== 'header' && node.name !== 'address')) return null;
  if (node.args.some((argument) => argument.kind === 'tag' && !PLAIN.test(argument.name))) return null;
  const { bound, diagnostics } = bind(definition, node);
  if (diagnostics.length > 0 || bound.tag('match-type') !== 'regex') return null;
  return {
    match: 'regex',
    comparator: comparatorOf(bound),
    keys: bound.strings('key-list'),
    fields: bound.strings('header-list'),
    part: node.name === 'header' ? 'text' : ((bound.tag('address-part') ?? 'all') as AddressPart),
  };
}
