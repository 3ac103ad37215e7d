import type { Rule, TestTree } from '../../rules/rule';

/** Alternatives of a tree in its flat form; more are not written. */
const MOST_WAYS = 400;

/**
 * A rule whose tests are nested no deeper than a server takes (RFC 5228 section 2.5.1 asks for 15): branches of the same kind are
 * joined, then, where that is not enough, tests are written as alternatives each of which lists what must hold and what must not.
 * Every message ends the same. The rule as it was where it is flat enough, or cannot be made so.
 */
export function flattened(rule: Rule, most: number | null): Rule {
  if (most === null || depthOf(rule) <= most) return rule;
  const joined = withTrees(rule, joinedTree);
  if (depthOf(joined) <= most) return joined;
  const flat = withTrees(joined, (tree) => alternatives(tree) ?? tree);
  return depthOf(flat) < depthOf(joined) ? flat : joined;
}

/** Any of several exceptions exempts, so that those that are alternatives are several. */
const withTrees = (rule: Rule, change: (tree: TestTree) => TestTree): Rule => ({
  ...rule,
  tests: change(rule.tests),
  unless: rule.unless
    .map(change)
    .flatMap((tree): readonly TestTree[] => (tree.kind === 'any' ? tree.children : [tree])),
});

/** How deep the tests of a rule are nested as it is written, the test of its `if` being 1. */
export function depthOf({ tests, unless }: Rule): number {
  const own = treeDepth(tests);
  // Exceptions stand beside the tests, in an allof, as a not of them all.
  return unless.length === 0 ? own + 1 : Math.max(own + 2, 1 + treeDepth({ kind: 'none', children: unless }));
}

function treeDepth(tree: TestTree): number {
  if (tree.kind === 'leaf' || tree.children.length === 0) return 1;
  const inner = Math.max(...tree.children.map(treeDepth));
  return inner + (tree.kind === 'none' && tree.children.length > 1 ? 2 : 1);
}

/** With branches that say the same as the one around them put into it. */
function joinedTree(tree: TestTree): TestTree {
  if (tree.kind === 'leaf') return tree;
  const children = tree.children.map(joinedTree).flatMap((child): readonly TestTree[] => {
    const within = tree.kind === 'all' ? 'all' : 'any';
    return child.kind === within ? child.children : [child];
  });
  const [only] = children;
  if (tree.kind !== 'none') return only && children.length === 1 ? only : { ...tree, children };
  // Not none of some is any of them.
  if (only?.kind === 'none' && children.length === 1) return joinedTree({ kind: 'any', children: only.children });
  return { ...tree, children };
}

/** What must hold, and what must not. */
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

/** The ways for a tree to hold, or not to; null where they are too many. */
function inWays(tree: TestTree, holds: boolean): Alternative[] | null {
  if (tree.kind === 'leaf') return [holds ? { holds: [tree], not: [] } : { holds: [], not: [tree] }];
  const each = tree.children.map((child) => inWays(child, tree.kind === 'none' ? !holds : holds));
  if (each.some((ways) => ways === null)) return null;
  const ways = each.flatMap((some) => (some ? [some] : []));
  // To hold, all of `all` and of `none` must do their part; not to hold, one of them.
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
