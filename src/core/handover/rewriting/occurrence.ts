import { readTest, writtenTest } from '../../rules/nodes';
import type { LeafTest, TestTree } from '../../rules/rule';
import { printTest } from '../../sieve/print';
import type { Argument } from '../../sieve/tree';
import { byTests } from './transformation';

/**
 * Without `index` (RFC 5260 section 6): all fields of the name are looked at. It is the same where a message has the field once, as
 * it should have those of RFC 5322 section 3.6.
 */
export const withoutIndex = byTests('index', 'of a field that a message has several times, all are looked at', ofAll);

function ofAll(test: LeafTest): TestTree | null {
  if (test.test !== 'sieve') return null;
  const node = writtenTest(test.text);
  const args = node.args.filter((argument, at) => !isOccurrence(argument) && !isIndex(node.args[at - 1]));
  // Read again from its words, so that what it says is told as any other test is.
  return readTest(writtenTest(printTest({ ...node, args })));
}

const isIndex = (argument: Argument | undefined): boolean => argument?.kind === 'tag' && argument.name === 'index';
const isOccurrence = (argument: Argument): boolean =>
  isIndex(argument) || (argument.kind === 'tag' && argument.name === 'last');
