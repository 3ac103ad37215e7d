import type { LeafTest, Rule, TestTree } from '../rules/rule';

/** A test of a rule, with the rule in which another test takes its place. */
export interface PlacedLeaf {
  readonly test: LeafTest;
  readonly replaced: (by: TestTree) => Rule;
}

/** The tests and exceptions of a rule that are not negated. */
export function positiveLeaves(rule: Rule): PlacedLeaf[] {
  return [
    ...leavesIn(rule.tests, (tests) => ({ ...rule, tests })),
    ...rule.unless.flatMap((tree, at) =>
      leavesIn(tree, (changed) => ({ ...rule, unless: rule.unless.with(at, changed) })),
    ),
  ];
}

function leavesIn(tree: TestTree, remade: (tree: TestTree) => Rule): PlacedLeaf[] {
  if (tree.kind === 'leaf') return [{ test: tree.test, replaced: remade }];
  return tree.children.flatMap((child, at) =>
    leavesIn(child, (changed) => remade({ ...tree, children: tree.children.with(at, changed) })),
  );
}
