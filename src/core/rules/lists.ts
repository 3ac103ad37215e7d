import { type Chain, type LeafTest, leavesOf, type NamedList, type Rule, type TestTree } from './rule';

/**
 * Named lists. A test that uses one carries its keys as if they had been written there, so that nothing that reads rules has to
 * know of lists: not the engines, not the reasoning, not the export.
 */

/** The rules that use a list, in the order of the chain. */
export function usersOf({ entries }: Chain, list: string): Rule[] {
  return entries.flatMap((entry) => (entry.kind === 'rule' && uses(entry, list) ? [entry] : []));
}

const testsOf = ({ tests, unless }: Rule): LeafTest[] => [tests, ...unless].flatMap(leavesOf);
const listOf = (test: LeafTest): string | undefined => ('keys' in test ? test.list : undefined);
const uses = (rule: Rule, list: string): boolean => testsOf(rule).some((test) => listOf(test) === list);

/** Whether all tests that use a list carry the keys that it has. */
export function isUpToDate(rule: Rule, lists: readonly NamedList[]): boolean {
  return testsOf(rule).every((test) => {
    const id = listOf(test);
    if (id === undefined || !('keys' in test)) return true;
    const list = lists.find((candidate) => candidate.id === id);
    return list !== undefined && list.keys.join('\n') === test.keys.join('\n');
  });
}

/** With one list put in, changed or taken out. */
export function listsWith(lists: readonly NamedList[], id: string, to: NamedList | null): NamedList[] {
  if (to === null) return lists.filter((list) => list.id !== id);
  return lists.some((list) => list.id === id) ? lists.map((list) => (list.id === id ? to : list)) : [...lists, to];
}

/** A rule whose tests of the list have its keys; the same rule where none has. */
export function withKeys(rule: Rule, list: NamedList): Rule {
  if (!uses(rule, list.id)) return rule;
  return { ...rule, tests: inTree(rule.tests, list), unless: rule.unless.map((tree) => inTree(tree, list)) };
}

function inTree(tree: TestTree, list: NamedList): TestTree {
  if (tree.kind !== 'leaf') return { ...tree, children: tree.children.map((child) => inTree(child, list)) };
  const { test } = tree;
  return 'keys' in test && test.list === list.id ? { ...tree, test: { ...test, keys: list.keys } } : tree;
}
