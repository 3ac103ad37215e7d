import type { Rule, TestTree } from './rule';

const known = new WeakMap<Rule, Rule>();

/**
 * The same rule with everything it negates as exceptions, wherever it stands: in the rule's own exceptions, or among
 * tests of which all must match. The same object for the same rule.
 */
export function asExcepting(rule: Rule): Rule {
  const found = known.get(rule) ?? excepting(rule);
  known.set(rule, found);
  return found;
}

function excepting(rule: Rule): Rule {
  const demanded = conjunctsOf(rule.tests);
  if (!demanded.some(isNegation) && !rule.unless.some(isNegation)) return rule;
  const parts = [
    ...demanded,
    ...rule.unless.flatMap((exception) => conjunctsOf({ kind: 'none', children: [exception] })),
  ];
  const unless = parts.flatMap((part) => (part.kind === 'none' ? part.children : []));
  const [only, ...others] = parts.filter((part) => part.kind !== 'none');
  const tests: TestTree = only && others.length === 0 ? only : { kind: 'all', children: only ? [only, ...others] : [] };
  return { ...rule, tests, unless };
}

const isNegation = ({ kind }: TestTree): boolean => kind === 'none';

/** Nested conjunctions as one; double negations undone. */
function conjunctsOf(tree: TestTree): readonly TestTree[] {
  if (tree.kind === 'all') return tree.children.flatMap(conjunctsOf);
  const [only, ...others] = tree.kind === 'leaf' ? [] : tree.children;
  if (!only || others.length > 0) return [tree];
  if (tree.kind === 'any') return conjunctsOf(only);
  if (tree.kind === 'none' && only.kind === 'none') {
    const [inner, ...more] = only.children;
    return conjunctsOf(inner && more.length === 0 ? inner : { kind: 'any', children: only.children });
  }
  return [tree];
}
