import { asExcepting } from '../rules/excepting';
import { type LeafTest, leavesOf, type Rule, type TestTree } from '../rules/rule';

/** A test of a rule, with the rule in which another test takes its place. */
export interface PlacedLeaf {
  readonly test: LeafTest;
  readonly replaced: (by: TestTree) => Rule;
}

/** All single tests of a rule, those of its exceptions included. */
export function placedLeaves(rule: Rule): PlacedLeaf[] {
  return [
    ...testsOf(rule, () => true),
    ...rule.unless.flatMap((tree, at) =>
      leavesIn(tree, (changed) => ({ ...rule, unless: rule.unless.with(at, changed) })),
    ),
  ];
}

/** The single tests of which one makes the rule match: neither negated nor exceptions. */
export const positiveLeaves = (rule: Rule): PlacedLeaf[] => testsOf(rule, ({ kind }) => kind !== 'none');

const testsOf = (rule: Rule, enters: (tree: TestTree) => boolean): PlacedLeaf[] =>
  leavesIn(rule.tests, (tests) => ({ ...rule, tests }), enters);

/** Whether an exception of the first rule looks for what the second rule tests for. */
export function speaksOf(first: Rule, second: Rule): boolean {
  const exempting = asExcepting(first).unless.flatMap(leavesOf);
  const wanted = leavesOf(asExcepting(second).tests);
  return exempting.some((one) => wanted.some((other) => areAbout(one, other)));
}

/** Two tests of a common field with a common key, or of the existence of a common field. */
function areAbout(a: LeafTest, b: LeafTest): boolean {
  if (!('headers' in a) || !('headers' in b)) return false;
  const [first, second] = [lower(a.headers), lower(b.headers)];
  if (!first.some((name) => second.includes(name))) return false;
  if (!('keys' in a) || !('keys' in b)) return !('keys' in a) && !('keys' in b);
  const keys = lower(b.keys);
  return lower(a.keys).some((key) => keys.includes(key));
}

const lower = (words: readonly string[]): string[] => words.map((word) => word.toLowerCase());

function leavesIn(
  tree: TestTree,
  remade: (tree: TestTree) => Rule,
  enters: (tree: TestTree) => boolean = () => true,
): PlacedLeaf[] {
  if (!enters(tree)) return [];
  if (tree.kind === 'leaf') return [{ test: tree.test, replaced: remade }];
  return tree.children.flatMap((child, at) =>
    leavesIn(child, (changed) => remade({ ...tree, children: tree.children.with(at, changed) }), enters),
  );
}
