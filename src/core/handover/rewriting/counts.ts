import type { LeafTest, TestTree } from '../../rules/rule';
import { elementAt } from '../../text/element';
import { byTests, leaf } from './transformation';

/**
 * Without `relational` (RFC 5231): whether a field is there at all, where its number is compared with none or one; equality as
 * `:is`. Every message ends the same. Other numbers and orders cannot be said.
 */
export const withoutRelational = byTests('relational', null, withoutRelation);

function withoutRelation(test: LeafTest): TestTree | null {
  if (test.test !== 'compared') return null;
  const { subject, by } = test;
  if (subject.of !== 'header' && subject.of !== 'address') return null;
  const isWhole = !subject.occurrence && !subject.within && !(subject.of === 'header' && subject.option);
  if (!isWhole || (by.match !== 'value' && by.match !== 'count')) return null;
  const { headers } = subject;
  const { relation, keys } = by;
  if (by.match === 'value') {
    if (relation !== 'eq') return null;
    const match = { match: 'is', comparator: by.comparator, keys } as const;
    if (subject.of === 'header') return leaf({ test: 'header', headers, ...match });
    const { part } = subject;
    return part === 'user' || part === 'detail' ? null : leaf({ test: 'address', headers, part, ...match });
  }
  // A field may be there without holding any address.
  if (subject.of !== 'header' || keys.length !== 1) return null;
  const there = headers.map((header) => leaf({ test: 'exists', headers: [header] }));
  switch (`${relation} ${keys[0]}`) {
    case 'ge 1':
    case 'gt 0':
    case 'ne 0':
      return headers.length === 1 ? elementAt(there, 0) : { kind: 'any', children: there };
    case 'eq 0':
    case 'lt 1':
    case 'le 0':
      return { kind: 'none', children: there };
    default:
      return null;
  }
}
