import type { Rule, TestTree } from '../rules/rule';

/**
 * The tests and exceptions of a rule as one editable tree. A path names a node: `tests` or `unless`, followed by
 * indexes. The tests are always a group here, and exceptions are the children of `unless`.
 */
export type TreePath = readonly [root: 'tests' | 'unless', ...indexes: number[]];

type Branch = Exclude<TestTree, { kind: 'leaf' }>;

/** The rule with its tests as a group, so that tests can be added. */
export function opened(rule: Rule): Rule {
  return rule.tests.kind === 'leaf' ? { ...rule, tests: { kind: 'all', children: [rule.tests] } } : rule;
}

/** The rule as saved: groups with one test become that test, and double negations are removed. */
export function closed(rule: Rule): Rule {
  return { ...rule, tests: plain(rule.tests), unless: rule.unless.map(plain) };
}

function plain(tree: TestTree): TestTree {
  if (tree.kind === 'leaf') return tree;
  const children = tree.children.map(plain);
  const [only, another] = children;
  if (!only || another) return { ...tree, children };
  if (tree.kind !== 'none') return only;
  const [inner, more] = only.kind === 'none' ? only.children : [];
  return inner && !more ? inner : { ...tree, children };
}

/** The group that contains the node at a path, and its index in it. */
function placeIn([root, ...indexes]: TreePath): { readonly branch: TreePath; readonly index: number } {
  return { branch: [root, ...indexes.slice(0, -1)], index: indexes.at(-1) ?? 0 };
}

/** The path of a child. */
export const childPath = ([root, ...indexes]: TreePath, index: number): TreePath => [root, ...indexes, index];

export function pathText([root, ...indexes]: TreePath): string {
  return [root, ...indexes].join('.');
}

/** Null if there is no node at the path. */
export function nodeAt(rule: Rule, [root, ...indexes]: TreePath): TestTree | null {
  const childOf = (node: TestTree | null, index: number) =>
    node && node.kind !== 'leaf' ? (node.children[index] ?? null) : null;
  return indexes.reduce<TestTree | null>(childOf, rootOf(rule, root));
}

/** Replaces a node. */
export function replaceNode(rule: Rule, path: TreePath, made: TestTree): Rule {
  return changed(rule, path, () => [made]);
}

export function removeNode(rule: Rule, path: TreePath): Rule {
  return changed(rule, path, () => []);
}

/** Inserts a node into a group before the child with this index. */
export function insertNode(rule: Rule, branch: TreePath, index: number, made: TestTree): Rule {
  return changed(rule, branch, (node) => {
    if (node.kind === 'leaf') throw new Error('a single test contains no other tests');
    return [{ ...node, children: node.children.toSpliced(index, 0, made) }];
  });
}

/**
 * Moves a node into a group before the node that has this index now; returns the rule unchanged if the node would
 * contain itself.
 */
export function moveNode(rule: Rule, from: TreePath, branch: TreePath, index: number): Rule {
  const node = nodeAt(rule, from);
  const target = nodeAt(rule, branch);
  if (from.length === 1 || !node || !target || target.kind === 'leaf' || isWithin(branch, from)) return rule;
  const { branch: parent, index: own } = placeIn(from);
  const sameBranch = pathText(parent) === pathText(branch);
  const to = sameBranch && index > own ? index - 1 : index;
  return insertNode(removeNode(rule, from), isShifted(branch, from) ? shifted(branch, from) : branch, to, node);
}

/**
 * The target of a step up or down: past the neighbour, into a neighbouring group, or out of its own; null at the end.
 */
export function stepOf(rule: Rule, path: TreePath, step: -1 | 1): { branch: TreePath; index: number } | null {
  if (path.length === 1) return null;
  const { branch, index: own } = placeIn(path);
  const parent = nodeAt(rule, branch);
  const beside = parent && parent.kind !== 'leaf' ? parent.children[own + step] : undefined;
  if (beside && beside.kind !== 'leaf') {
    return { branch: childPath(branch, own + step), index: step > 0 ? 0 : beside.children.length };
  }
  if (beside) return { branch, index: step > 0 ? own + 2 : own - 1 };
  if (branch.length === 1) return null;
  const { branch: outer, index: at } = placeIn(branch);
  return { branch: outer, index: step > 0 ? at + 1 : at };
}

function rootOf(rule: Rule, root: 'tests' | 'unless'): Branch {
  if (root === 'unless') return { kind: 'any', children: rule.unless };
  return rule.tests.kind === 'leaf' ? { kind: 'all', children: [rule.tests] } : rule.tests;
}

function changed(rule: Rule, [root, ...indexes]: TreePath, change: (node: TestTree) => TestTree[]): Rule {
  const within = (node: TestTree, rest: readonly number[]): TestTree[] => {
    const [index, ...deeper] = rest;
    if (index === undefined) return change(node);
    const child = node.kind === 'leaf' ? undefined : node.children[index];
    if (node.kind === 'leaf' || !child) throw new Error('there is no such test');
    return [{ ...node, children: node.children.toSpliced(index, 1, ...within(child, deeper)) }];
  };
  const [made] = within(rootOf(rule, root), indexes);
  if (root === 'tests') return { ...rule, tests: made ?? { kind: 'all', children: [] } };
  return { ...rule, unless: made && made.kind !== 'leaf' ? made.children : [] };
}

const isWithin = (path: TreePath, around: TreePath): boolean =>
  path.length >= around.length && around.every((step, at) => step === path[at]);

/** Whether the path leads past the node at `from`, among the same children. */
function isShifted(path: TreePath, from: TreePath): boolean {
  const at = from.length - 1;
  const beside = path.length > at && from.slice(0, at).every((step, index) => step === path[index]);
  return beside && Number(path[at]) > Number(from[at]);
}

function shifted([root, ...indexes]: TreePath, from: TreePath): TreePath {
  const at = from.length - 2;
  return [root, ...indexes.map((step, index) => (index === at ? step - 1 : step))];
}
