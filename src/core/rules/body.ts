import { bind } from '../sieve/language/bind';
import { comparatorOf } from '../sieve/language/shared';
import { tests } from '../sieve/language/table';
import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';
import { parse } from '../sieve/parse';
import { printTest } from '../sieve/print';
import { quote } from '../sieve/quote';
import { writtenTest } from './nodes';
import type { LeafTest, TextMatch } from './rule';

/** The comparison of a body test that looks at the text of messages alone, by i;ascii-casemap; null for any other test. */
export function maybeBodyMatch(text: string): TextMatch | null {
  const node = writtenTest(text);
  const definition = tests.get('body');
  if (node.name !== 'body' || !definition) return null;
  const { bound, diagnostics } = bind(definition, node);
  const match = bound.tag('match-type') ?? 'is';
  if (diagnostics.length > 0 || (bound.tag('transform') ?? 'text') !== 'text') return null;
  if (match !== 'is' && match !== 'contains' && match !== 'matches') return null;
  const comparator = comparatorOf(bound);
  // Texts are kept folded in this one way.
  return comparator === DEFAULT_COMPARATOR ? { match, comparator, keys: bound.strings('key-list') } : null;
}

/** Words in the text of a message (RFC 5173 section 5.3). */
export function bodyTest({ match, keys }: Pick<TextMatch, 'match' | 'keys'>): LeafTest {
  const [only, another] = keys;
  const written = only !== undefined && another === undefined ? quote(only) : `[${keys.map(quote).join(', ')}]`;
  const text = `body :text :${match} ${written}`;
  const statement = parse(`if ${text} {}`).script.commands[0];
  const test = statement?.kind === 'command' ? statement.tests[0] : undefined;
  if (!test) throw new Error(`not a test: ${text}`);
  return { test: 'sieve', text: printTest(test) };
}
