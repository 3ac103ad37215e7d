import type { Profile } from './profile';
import type { ChainEntry, TestTree } from './rule';
import { actionsWords, treeWords } from './sentence';

/** One line of an indented list: its depth, 0 for the parts of the rule itself. */
export interface OutlineLine {
  readonly depth: number;
  readonly text: string;
}

/** Most characters of nested tests in one line. */
const SHORT = 90;

const HEADS = {
  all: 'all of these match:',
  any: 'at least one of these matches:',
  none: 'none of these matches:',
} as const;

/**
 * A rule as an indented list, each test on a line of its own (need N5). Null if its sentence is easy to read: nothing
 * is nested, or what is nested is short.
 */
export function maybeOutline(entry: ChainEntry, profile?: Profile): readonly OutlineLine[] | null {
  if (entry.kind === 'script') return null;
  const { tests, unless } = entry;
  if (!isLong(tests) && !unless.some(isLong)) return null;
  const when = entry.link === 'otherwise' ? 'Otherwise, when' : 'When';
  return [
    ...(tests.kind === 'all' && tests.children.length === 0
      ? [{ depth: 0, text: 'For every message' }]
      : headed(when, tests, 0)),
    ...exceptions(unless),
    { depth: 0, text: `Then ${actionsWords(entry, profile)}` },
  ];
}

function exceptions(unless: readonly TestTree[]): OutlineLine[] {
  const [only, ...others] = unless;
  if (!only) return [];
  return headed('Unless', others.length === 0 ? only : { kind: 'any', children: unless }, 0);
}

/** Words followed by a tree: on the same line if it is short, else its parts on lines below. */
function headed(words: string, tree: TestTree, depth: number): OutlineLine[] {
  if (tree.kind === 'leaf' || isShort(tree)) return [{ depth, text: `${words} ${treeWords(tree)}` }];
  return [
    { depth, text: `${words} ${HEADS[tree.kind]}` },
    ...tree.children.flatMap((child) => linesOf(child, depth + 1)),
  ];
}

function linesOf(tree: TestTree, depth: number): OutlineLine[] {
  if (tree.kind === 'leaf' || isShort(tree)) return [{ depth, text: treeWords(tree) }];
  return [{ depth, text: HEADS[tree.kind] }, ...tree.children.flatMap((child) => linesOf(child, depth + 1))];
}

/** Whether a tree fits on one line: it contains only single tests, and few words. */
const isShort = (tree: TestTree): boolean =>
  tree.kind === 'leaf' || (tree.children.every(({ kind }) => kind === 'leaf') && treeWords(tree).length <= SHORT);

/** Whether a tree has nested groups and many words. */
const isLong = (tree: TestTree): boolean =>
  tree.kind !== 'leaf' && tree.children.some(isNested) && treeWords(tree).length > SHORT;

const isNested = (tree: TestTree): boolean => tree.kind !== 'leaf' && tree.children.length > 1;

/** The outline as text, indented by two spaces for each level. */
export const outlineText = (lines: readonly OutlineLine[]): string =>
  lines.map(({ depth, text }) => `${'  '.repeat(depth)}${text}`).join('\n');
