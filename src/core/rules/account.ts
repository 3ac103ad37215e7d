import type { Rule, TestTree } from './rule';

/**
 * A rule that concerns one account tests first to whom the message was delivered, by the envelope (RFC 5228 section 5.4):
 * so it says the same to any server, and is simulated as any other test.
 */
function accountTest(address: string): TestTree {
  return {
    kind: 'leaf',
    test: { test: 'envelope', parts: ['to'], part: 'all', match: 'is', comparator: 'i;ascii-casemap', keys: [address] },
  };
}

/** The account that a rule concerns, as its first test says; null where it concerns all of them. */
export function accountOf({ tests }: Pick<Rule, 'tests'>): string | null {
  const first = tests.kind === 'all' ? tests.children[0] : tests;
  if (first?.kind !== 'leaf' || first.test.test !== 'envelope') return null;
  const { parts, part, match, keys } = first.test;
  const [address, another] = keys;
  const only = address !== undefined && another === undefined && parts.length === 1 && parts[0] === 'to';
  return only && part === 'all' && match === 'is' ? address : null;
}

/** The same rule for one account, or for all of them. */
export function forAccount(rule: Rule, address: string | null): Rule {
  const { tests } = rule;
  const children = tests.kind === 'all' ? tests.children : [tests];
  // An all around a single test stays what it is, so that taking the account back gives the very rule.
  const rest = accountOf(rule) !== null ? children.slice(1) : children.length === 1 ? [tests] : children;
  const all = address === null ? rest : [accountTest(address), ...rest];
  const [only, more] = all;
  return { ...rule, tests: only && !more ? only : { kind: 'all', children: all } };
}
