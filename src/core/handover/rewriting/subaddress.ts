import type { LeafTest, TestTree } from '../../rules/rule';
import { comparatorOf } from '../../sieve/language/shared';
import { byTests, escaped, leaf, maybeBound } from './transformation';

/**
 * Without `subaddress` (RFC 5233): by the local part, which is the user, then a plus sign, then the detail. A detail that itself
 * holds a plus sign is taken for a longer one.
 */
export const withoutSubaddress = byTests(
  'subaddress',
  'user and detail are told apart by the plus sign alone',
  byLocalPart,
);

function byLocalPart(test: LeafTest): TestTree | null {
  const found = maybeBound(test);
  if (!found || (found.name !== 'address' && found.name !== 'envelope')) return null;
  const { name, bound } = found;
  const [part, match] = [bound.tag('address-part'), bound.tag('match-type') ?? 'is'];
  if (match !== 'is' || (part !== 'user' && part !== 'detail')) return null;
  const keys = bound
    .strings('key-list')
    .filter((key) => part === 'detail' || !key.includes('+'))
    .map(escaped);
  // No user has a plus sign in it.
  if (keys.length === 0) return { kind: 'any', children: [] };
  const comparator = comparatorOf(bound);
  const forms = part === 'detail' ? keys.map((key) => `*+${key}`) : keys.flatMap((key) => [key, `${key}+*`]);
  const sought = { part: 'localpart', match: 'matches', comparator, keys: forms } as const;
  if (name === 'envelope') {
    const parts = bound.strings('envelope-part').map((which) => which.toLowerCase());
    if (!parts.every((which) => which === 'from' || which === 'to')) return null;
    return leaf({ test: 'envelope', parts: parts as ('from' | 'to')[], ...sought });
  }
  return leaf({ test: 'address', headers: bound.strings('header-list'), ...sought });
}
