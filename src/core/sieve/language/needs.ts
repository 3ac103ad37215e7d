import { maybeComparator } from '../match/comparators';
import type { CommandNode, Statement, TestNode } from '../tree';
import { bind } from './bind';
import type { Signature } from './definition';
import { capabilitiesOf, commands, tests } from './table';

/** The capabilities that a statement needs, by the table of the language. */
export function needsOf(statement: Statement): string[] {
  if (statement.kind === 'unreadable') return [];
  return [
    ...ownNeeds(commands.get(statement.name), statement),
    ...statement.tests.flatMap(testNeeds),
    ...(statement.block?.commands.flatMap(needsOf) ?? []),
  ];
}

/** The capabilities that a test needs. */
export function testNeeds(test: TestNode): string[] {
  return [...ownNeeds(tests.get(test.name), test), ...test.tests.flatMap(testNeeds)];
}

function ownNeeds(signature: Signature | undefined, node: CommandNode | TestNode): string[] {
  if (!signature) return [];
  const { bound, needs, diagnostics } = bind(signature, node);
  const examined: string[] = [];
  if (diagnostics.length === 0) {
    signature.examine?.(bound, (code, _at, { capability }) => {
      if (code === 'missing-require' && capability) examined.push(capability);
    });
  }
  const comparator = bound.has('comparator') ? maybeComparator(bound.string('comparator'))?.capability : null;
  return [
    ...capabilitiesOf(signature).slice(0, 1),
    ...needs.map(({ capability }) => capability),
    ...examined,
    ...(comparator ? [comparator] : []),
  ];
}
