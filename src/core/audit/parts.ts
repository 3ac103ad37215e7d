import type { Rule, TestTree } from '../rules/rule';
import { treeWords } from '../rules/sentence';
import { PARTS } from './wording';

/** A removable part of a rule. */
export interface Part {
  readonly id: string;
  /** Most parts are needed, so their words are only made where one is not. */
  readonly words: string;
  readonly without: Rule;
}

/** Most keys of one test that are examined individually. */
const MOST_KEYS = 60;

/** Every test, key and exception that could be removed alone, with the remaining rule. */
export function partsOf(rule: Rule): Part[] {
  const tests = leftOut(rule.tests, (tests) => ({ ...rule, tests }), 'tests');
  const exceptions = rule.unless.flatMap((exception, index): Part[] => {
    const unless = (after: readonly TestTree[]): Rule => ({ ...rule, unless: after });
    const whole: Part = {
      id: `unless.${index}`,
      get words() {
        return PARTS.exception(treeWords(exception));
      },
      without: unless(rule.unless.filter((_, at) => at !== index)),
    };
    const inner = leftOut(exception, (changed) => unless(rule.unless.with(index, changed)), `unless.${index}`);
    return rule.unless.length > 1 ? [whole, ...inner] : inner;
  });
  return [...tests, ...exceptions];
}

/** All ways to remove one test or key from a tree, except the whole tree. */
function leftOut(tree: TestTree, remade: (tree: TestTree) => Rule, id: string): Part[] {
  if (tree.kind === 'leaf') {
    const { test } = tree;
    if (!('keys' in test) || test.list !== undefined || test.keys.length < 2 || test.keys.length > MOST_KEYS) return [];
    return test.keys.map((key, at) => ({
      id: `${id}.key${at}`,
      get words() {
        return PARTS.key(key);
      },
      without: remade({ kind: 'leaf', test: { ...test, keys: test.keys.filter((_, other) => other !== at) } }),
    }));
  }
  return tree.children.flatMap((child, at): Part[] => {
    const without = tree.children.filter((_, other) => other !== at);
    const whole: Part = {
      id: `${id}.${at}`,
      get words() {
        return PARTS.test(treeWords(child));
      },
      without: remade({ ...tree, children: without }),
    };
    const inner = leftOut(
      child,
      (changed) => remade({ ...tree, children: tree.children.with(at, changed) }),
      `${id}.${at}`,
    );
    return without.length > 0 ? [whole, ...inner] : inner;
  });
}
