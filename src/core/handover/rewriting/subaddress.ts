import type { LeafTest, TestTree } from '../../rules/rule';
import { byTests, escaped, leaf } from './transformation';

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
  if (test.test !== 'compared' || (test.subject.of !== 'address' && test.subject.of !== 'envelope')) return null;
  const { subject, by } = test;
  if (by.match !== 'is' || (subject.part !== 'user' && subject.part !== 'detail')) return null;
  const isDetail = subject.part === 'detail';
  // No user has a plus sign in it.
  const keys = by.keys.filter((key) => isDetail || !key.includes('+')).map(escaped);
  if (keys.length === 0) return { kind: 'any', children: [] };
  const forms = isDetail ? keys.map((key) => `*+${key}`) : keys.flatMap((key) => [key, `${key}+*`]);
  const sought = { part: 'localpart', match: 'matches', comparator: by.comparator, keys: forms } as const;
  if (subject.of === 'address') return leaf({ test: 'address', headers: subject.headers, ...sought });
  const parts = subject.parts.filter((which) => which === 'from' || which === 'to');
  return parts.length === subject.parts.length ? leaf({ test: 'envelope', parts, ...sought }) : null;
}
