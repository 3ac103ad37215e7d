import { type Chain, type LeafTest, leavesOf, type NamedList, type Rule, type TestTree } from './rule';

/**
 * Named lists. A test that uses one carries its keys as if they had been written there, so that engines, proofs and
 * export need not know about lists.
 */

/** The rules that use a list, in chain order. */
export function usersOf({ entries }: Chain, list: string): Rule[] {
  return entries.flatMap((entry) => (entry.kind === 'rule' && uses(entry, list) ? [entry] : []));
}

const testsOf = ({ tests, unless }: Rule): LeafTest[] => [tests, ...unless].flatMap(leavesOf);
const listOf = (test: LeafTest): string | undefined => ('keys' in test ? test.list : undefined);
const uses = (rule: Rule, list: string): boolean => testsOf(rule).some((test) => listOf(test) === list);

/** Whether all tests that use a list carry its present keys. */
export function isUpToDate(rule: Rule, lists: readonly NamedList[]): boolean {
  return testsOf(rule).every((test) => {
    const id = listOf(test);
    if (id === undefined || !('keys' in test)) return true;
    const list = lists.find((candidate) => candidate.id === id);
    return list !== undefined && list.keys.join('\n') === test.keys.join('\n');
  });
}

/** Adds, changes or removes one list. */
export function listsWith(lists: readonly NamedList[], id: string, to: NamedList | null): NamedList[] {
  if (to === null) return lists.filter((list) => list.id !== id);
  return lists.some((list) => list.id === id) ? lists.map((list) => (list.id === id ? to : list)) : [...lists, to];
}

/** A rule whose tests of the list carry its keys; the same rule if none uses it. */
export function withKeys(rule: Rule, list: NamedList): Rule {
  if (!uses(rule, list.id)) return rule;
  return { ...rule, tests: inTree(rule.tests, list), unless: rule.unless.map((tree) => inTree(tree, list)) };
}

function inTree(tree: TestTree, list: NamedList): TestTree {
  if (tree.kind !== 'leaf') return { ...tree, children: tree.children.map((child) => inTree(child, list)) };
  const { test } = tree;
  return 'keys' in test && test.list === list.id ? { ...tree, test: { ...test, keys: list.keys } } : tree;
}

/**
 * A rule for one account tests the envelope recipient first (RFC 5228 section 5.4), so that it means the same on any
 * server and is simulated like any other test.
 */
function accountTest(address: string): TestTree {
  return {
    kind: 'leaf',
    test: { test: 'envelope', parts: ['to'], part: 'all', match: 'is', comparator: 'i;ascii-casemap', keys: [address] },
  };
}

/** The account of a rule, from its first test; null for all accounts. */
export function accountOf({ tests }: Pick<Rule, 'tests'>): string | null {
  const first = tests.kind === 'all' ? tests.children[0] : tests;
  if (first?.kind !== 'leaf' || first.test.test !== 'envelope') return null;
  const { parts, part, match, keys } = first.test;
  const [address, another] = keys;
  const only = address !== undefined && another === undefined && parts.length === 1 && parts[0] === 'to';
  return only && part === 'all' && match === 'is' ? address : null;
}

/** The rule limited to one account, or for all. */
export function forAccount(rule: Rule, address: string | null): Rule {
  const { tests } = rule;
  const children = tests.kind === 'all' ? tests.children : [tests];
  // An allof around a single test is kept, so that removing the account restores the identical rule.
  const rest = accountOf(rule) !== null ? children.slice(1) : children.length === 1 ? [tests] : children;
  const all = address === null ? rest : [accountTest(address), ...rest];
  const [only, more] = all;
  return { ...rule, tests: only && !more ? only : { kind: 'all', children: all } };
}

/**
 * Joins two chains: the rules of the second run after those of the first. They get new ids, numbered after all ids of
 * the first and after `used`.
 */
export function joinChains(before: Chain, added: Chain, used = 0): Chain {
  const base = before.entries.reduce((most, { id }) => Math.max(most, idNumber(id)), used);
  const renumbered = added.entries.map((entry, index) => ({ ...entry, id: `r${base + index + 1}` }));
  const closing = [before.closing, added.closing].filter((text) => text !== '').join('\n');
  // Lists and the way in which rules run are those of what was there first.
  const { lists, profile } = before.entries.length === 0 && !before.profile ? added : before;
  return {
    entries: [...before.entries, ...renumbered],
    closing,
    ...(lists ? { lists } : {}),
    ...(profile ? { profile } : {}),
  };
}

/** The number in an id of this form; 0 for others. */
const idNumber = (id: string): number => Number(/^r(\d{1,9})$/.exec(id)?.[1] ?? 0);
