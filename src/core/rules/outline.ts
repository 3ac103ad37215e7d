import type { ChainEntry, Rule, TestTree } from './rule';
import { actionsWords, endingWords, treeWords } from './sentence';

/** One line of a rule that is told as an indented list: how deep it stands, 0 for the parts of the rule itself. */
export interface OutlineLine {
  readonly depth: number;
  readonly text: string;
}

/** Characters of nested tests that are still read in one line. */
const SHORT = 90;

const HEADS = {
  all: 'all of these match:',
  any: 'at least one of these matches:',
  none: 'none of these matches:',
} as const;

/**
 * A rule as an indented list, each test on a line of its own (need N5). Null where its sentence can be read in one go: nothing is
 * nested in it, or what is nested is short.
 */
export function maybeOutline(entry: ChainEntry): readonly OutlineLine[] | null {
  if (entry.kind === 'script') return null;
  const { tests, unless } = entry;
  if (!isLong(tests) && !unless.some(isLong)) return null;
  const when = entry.link === 'otherwise' ? 'Otherwise, when' : 'When';
  return [
    ...(tests.kind === 'all' && tests.children.length === 0
      ? [{ depth: 0, text: 'For every message' }]
      : headed(when, tests, 0)),
    ...exceptions(unless),
    { depth: 0, text: thenWords(entry) },
  ];
}

function exceptions(unless: readonly TestTree[]): OutlineLine[] {
  const [only, ...others] = unless;
  if (!only) return [];
  return headed('Unless', others.length === 0 ? only : { kind: 'any', children: unless }, 0);
}

function thenWords(rule: Rule): string {
  const words = [actionsWords(rule), endingWords(rule)].filter((part) => part !== '').join(' ');
  return `Then ${words}`;
}

/** Some words, and behind them a tree: in the same line where that is short, else one line for each of its parts. */
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

/** Whether a tree reads in one line: only single tests stand in it, and their words are few. */
const isShort = (tree: TestTree): boolean =>
  tree.kind === 'leaf' || (tree.children.every(({ kind }) => kind === 'leaf') && treeWords(tree).length <= SHORT);

/** Whether something nested stands in a tree whose words are many. */
const isLong = (tree: TestTree): boolean =>
  tree.kind !== 'leaf' && tree.children.some(isNested) && treeWords(tree).length > SHORT;

const isNested = (tree: TestTree): boolean => tree.kind !== 'leaf' && tree.children.length > 1;

/** The same as text, two blanks for each step inwards. */
export const outlineText = (lines: readonly OutlineLine[]): string =>
  lines.map(({ depth, text }) => `${'  '.repeat(depth)}${text}`).join('\n');
