import type { Rule, TestTree } from '../../rules/rule';

/** The most alternatives of a flattened tree. */
const MOST_WAYS = 400;

/**
 * A rule with nesting within the limit of a server (RFC 5228 section 2.5.1 asks for 15): groups of the same kind are
 * joined; if that is not enough, tests become alternatives, each listing what must match and what must not. Every
 * message is treated alike. Returns the rule unchanged if it is flat enough or cannot be flattened.
 */
export function flattened(rule: Rule, most: number | null): Rule {
  if (most === null || depthOf(rule) <= most) return rule;
  const joined = withTrees(rule, joinedTree);
  if (depthOf(joined) <= most) return joined;
  const flat = withTrees(joined, (tree) => alternatives(tree) ?? tree);
  return depthOf(flat) < depthOf(joined) ? flat : joined;
}

/** Alternatives of an exception become several exceptions. */
const withTrees = (rule: Rule, change: (tree: TestTree) => TestTree): Rule => ({
  ...rule,
  tests: change(rule.tests),
  unless: rule.unless
    .map(change)
    .flatMap((tree): readonly TestTree[] => (tree.kind === 'any' ? tree.children : [tree])),
});

/** The nesting depth of a rule as written; the test of its `if` has depth 1. */
export function depthOf({ tests, unless }: Rule): number {
  const own = treeDepth(tests);
  // Exceptions are a negated group beside the tests, in an allof.
  return unless.length === 0 ? own + 1 : Math.max(own + 2, 1 + treeDepth({ kind: 'none', children: unless }));
}

function treeDepth(tree: TestTree): number {
  if (tree.kind === 'leaf' || tree.children.length === 0) return 1;
  const inner = Math.max(...tree.children.map(treeDepth));
  return inner + (tree.kind === 'none' && tree.children.length > 1 ? 2 : 1);
}

/** Joins nested groups of the same kind. */
function joinedTree(tree: TestTree): TestTree {
  if (tree.kind === 'leaf') return tree;
  const children = tree.children.map(joinedTree).flatMap((child): readonly TestTree[] => {
    const within = tree.kind === 'all' ? 'all' : 'any';
    return child.kind === within ? child.children : [child];
  });
  const [only] = children;
  if (tree.kind !== 'none') return only && children.length === 1 ? only : { ...tree, children };
  // None of none is any.
  if (only?.kind === 'none' && children.length === 1) return joinedTree({ kind: 'any', children: only.children });
  return { ...tree, children };
}

/** What must match, and what must not. */
interface Alternative {
  readonly holds: readonly TestTree[];
  readonly not: readonly TestTree[];
}

function alternatives(tree: TestTree): TestTree | null {
  const found = inWays(tree, true);
  if (!found) return null;
  const children = found.map(({ holds, not }): TestTree => {
    const all = [...holds, ...not.map((test): TestTree => ({ kind: 'none', children: [test] }))];
    const [only] = all;
    return only && all.length === 1 ? only : { kind: 'all', children: all };
  });
  const [only] = children;
  return only && children.length === 1 ? only : { kind: 'any', children };
}

/** The alternatives for a tree to match, or not to; null if there are too many. */
function inWays(tree: TestTree, holds: boolean): Alternative[] | null {
  if (tree.kind === 'leaf') return [holds ? { holds: [tree], not: [] } : { holds: [], not: [tree] }];
  const each = tree.children.map((child) => inWays(child, tree.kind === 'none' ? !holds : holds));
  if (each.some((ways) => ways === null)) return null;
  const ways = each.flatMap((some) => (some ? [some] : []));
  // To match, all members of `all` and `none` count; not to match, one is enough.
  const isEvery = (tree.kind === 'any') !== holds;
  if (!isEvery) return within(ways.flat());
  let all: Alternative[] = [{ holds: [], not: [] }];
  for (const next of ways) {
    if (all.length * next.length > MOST_WAYS) return null;
    all = all.flatMap((before) =>
      next.map((after) => ({ holds: [...before.holds, ...after.holds], not: [...before.not, ...after.not] })),
    );
  }
  return all;
}

const within = (ways: Alternative[]): Alternative[] | null => (ways.length > MOST_WAYS ? null : ways);
