import { writtenTest } from '../../rules/nodes';
import type { LeafTest, TestTree } from '../../rules/rule';
import { bind } from '../../sieve/language/bind';
import { comparatorOf } from '../../sieve/language/shared';
import { tests } from '../../sieve/language/table';
import { leaf, needs, type Transformation, withTests } from './transformation';

/**
 * Without `subaddress` (RFC 5233): by the local part, which is the user, then a plus sign, then the detail. A detail that itself
 * holds a plus sign is taken for a longer one.
 */
export const withoutSubaddress: Transformation = {
  without: 'subaddress',
  rewrite: (rule) => {
    const rewritten = withTests(rule, (test) => (needs(test, 'subaddress') ? byLocalPart(test) : leaf(test)));
    return rewritten && { rule: rewritten, cost: 'user and detail are told apart by the plus sign alone' };
  },
};

function byLocalPart(test: LeafTest): TestTree | null {
  if (test.test !== 'sieve') return null;
  const node = writtenTest(test.text);
  const definition = tests.get(node.name);
  if (!definition || (node.name !== 'address' && node.name !== 'envelope')) return null;
  const { bound, diagnostics } = bind(definition, node);
  const [part, match] = [bound.tag('address-part'), bound.tag('match-type') ?? 'is'];
  if (diagnostics.length > 0 || match !== 'is' || (part !== 'user' && part !== 'detail')) return null;
  const keys = bound.strings('key-list').map(escaped);
  const comparator = comparatorOf(bound);
  const forms = part === 'detail' ? keys.map((key) => `*+${key}`) : keys.flatMap((key) => [key, `${key}+*`]);
  const sought = { part: 'localpart', match: 'matches', comparator, keys: forms } as const;
  if (node.name === 'envelope') {
    const parts = bound.strings('envelope-part').map((name) => name.toLowerCase());
    if (!parts.every((name) => name === 'from' || name === 'to')) return null;
    return leaf({ test: 'envelope', parts: parts as ('from' | 'to')[], ...sought });
  }
  return leaf({ test: 'address', headers: bound.strings('header-list'), ...sought });
}

/** What stands for itself in a pattern (RFC 5228 section 2.7.1). */
const escaped = (key: string): string => key.replace(/[\\*?]/g, '\\$&');
