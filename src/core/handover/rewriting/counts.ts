import type { LeafTest, TestTree } from '../../rules/rule';
import { comparatorOf } from '../../sieve/language/shared';
import { byTests, leaf, maybeBound } from './transformation';

/**
 * Without `relational` (RFC 5231): whether a field is there at all, where its number is compared with none or one; equality as
 * `:is`. Every message ends the same. Other numbers and orders cannot be said.
 */
export const withoutRelational = byTests('relational', null, withoutRelation);

function withoutRelation(test: LeafTest): TestTree | null {
  const found = maybeBound(test);
  if (!found || (found.name !== 'header' && found.name !== 'address')) return null;
  const { name, bound } = found;
  if ([...bound.tags.keys()].some((group) => !/^(match-type|comparator|address-part)$/.test(group))) return null;
  const relation = bound.string('relation').toLowerCase();
  const [headers, keys] = [bound.strings('header-list'), bound.strings('key-list')];
  if (bound.tag('match-type') === 'value') {
    const part = bound.tag('address-part') ?? 'all';
    if (relation !== 'eq' || (part !== 'all' && part !== 'localpart' && part !== 'domain')) return null;
    const match = { match: 'is', comparator: comparatorOf(bound), keys } as const;
    return leaf(
      name === 'header' ? { test: 'header', headers, ...match } : { test: 'address', headers, part, ...match },
    );
  }
  // A field may be there without holding any address.
  if (name !== 'header' || keys.length !== 1) return null;
  const there = headers.map((header) => leaf({ test: 'exists', headers: [header] }));
  switch (`${relation} ${keys[0]}`) {
    case 'ge 1':
    case 'gt 0':
    case 'ne 0':
      return headers.length === 1 ? (there[0] as TestTree) : { kind: 'any', children: there };
    case 'eq 0':
    case 'lt 1':
    case 'le 0':
      return { kind: 'none', children: there };
    default:
      return null;
  }
}
