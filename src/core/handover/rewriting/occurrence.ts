import { readTest, testNode } from '../../rules/nodes';
import type { LeafTest, TestTree } from '../../rules/rule';
import { byTests, leaf } from './transformation';

/**
 * Without `index` (RFC 5260 section 6): all fields of the name are looked at. It is the same where a message has the field once, as
 * it should have those of RFC 5322 section 3.6.
 */
export const withoutIndex = byTests('index', 'of a field that a message has several times, all are looked at', ofAll);

function ofAll(test: LeafTest): TestTree | null {
  if (test.test !== 'compared' || !('occurrence' in test.subject)) return null;
  const { occurrence: _, ...subject } = test.subject;
  // Read again, so that what is no more than a plain test becomes one.
  return readTest(testNode(leaf({ ...test, subject })));
}
