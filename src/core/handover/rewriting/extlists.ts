import { strings } from '../../rules/arguments';
import { readTest, testNode } from '../../rules/nodes';
import { type Chain, type LeafTest, leavesOf, type NamedList, type Rule } from '../../rules/rule';
import type { TestNode } from '../../sieve/tree';
import { leaf, withTests } from './transformation';

/**
 * Named lists that a server keeps itself (`extlists`, RFC 6134): a test refers to the list by its name there instead of
 * its keys. Its matches then depend on the server, which is declared as a difference.
 */

/** The names of lists on the server, by their ids here. */
export type ListNames = Readonly<Record<string, string>>;

/** The server's lists with the contents of ours, for the interpreter. */
export function listsAsHere(lists: readonly NamedList[], names: ListNames): ReadonlyMap<string, ReadonlySet<string>> {
  const all = new Map<string, Set<string>>();
  for (const { id, keys } of lists) {
    const name = names[id];
    if (name === undefined) continue;
    const known = all.get(name) ?? new Set();
    for (const key of keys) known.add(key.toLowerCase());
    all.set(name, known);
  }
  return all;
}

/** The names of the server's lists that a rule refers to. */
export function referredBy({ tests, unless }: Rule, names: ListNames): string[] {
  const all = [tests, ...unless].flatMap(leavesOf).flatMap((test) => maybeName(test, names) ?? []);
  return [...new Set(all)];
}

/**
 * The name by which a test refers to a list: only equality tests can (section 2.2), with keys that are equal under
 * every comparator for ASCII.
 */
export function maybeName(test: LeafTest, names: ListNames): string | null {
  if (!('keys' in test) || test.test === 'hasflag' || test.list === undefined || test.match !== 'is') return null;
  // biome-ignore lint/suspicious/noControlCharactersInRegex: what is not ASCII
  if (test.comparator !== 'i;ascii-casemap' || !test.keys.every((key) => /^[\x00-\x7f]*$/.test(key))) return null;
  return names[test.list] ?? null;
}

/** The chain as written: with references to the server's lists. */
export function referring(chain: Chain, names: ListNames): Chain {
  if (Object.keys(names).length === 0) return chain;
  return overTests(chain, (test) => {
    const name = maybeName(test, names);
    const tree = name === null ? null : readTest(withMatch(testNode(leaf(test)), ['is', 'list'], [name]));
    return tree?.kind === 'leaf' ? tree.test : test;
  });
}

/** The inverse of `referring` on a chain that was read back, except for ids. */
export function resolved(chain: Chain, lists: ReadonlyMap<string, ReadonlySet<string>>): Chain {
  if (lists.size === 0) return chain;
  return overTests(chain, (test) => {
    if (test.test !== 'compared' || test.by.match !== 'list') return test;
    const keys = test.by.keys.flatMap((name) => [...(lists.get(name) ?? [])]);
    const tree = readTest(withMatch(testNode(leaf(test)), ['list', 'is'], keys));
    return tree?.kind === 'leaf' ? tree.test : test;
  });
}

/** A test with another match type and other keys, which come last. */
const withMatch = (node: TestNode, [from, to]: readonly [string, string], keys: readonly string[]): TestNode => ({
  ...node,
  args: node.args.map((argument, at) => {
    if (argument.kind === 'tag' && argument.name === from) return { ...argument, name: to };
    return at === node.args.length - 1 ? strings(keys) : argument;
  }),
});

function overTests(chain: Chain, change: (test: LeafTest) => LeafTest): Chain {
  const entries = chain.entries.map((entry) =>
    entry.kind === 'rule' ? (withTests(entry, (test) => leaf(change(test))) ?? entry) : entry,
  );
  return { ...chain, entries };
}
