import type { TestTree } from '../rule';

/** What some words of a line say. */
export interface Found<Said> {
  readonly said: Said;
  /** The number of the token after it. */
  readonly next: number;
}

/** The negation of a condition, without a double one. */
export function negation(tree: TestTree): TestTree {
  if (tree.kind === 'none' && tree.children.length === 1 && tree.children[0]) return tree.children[0];
  return { kind: 'none', children: [tree] };
}
