import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { leavesOf, type Rule, type TestTree } from '../rules/rule';
import { elementAt } from '../text/lookup';
import {
  closed,
  insertNode,
  moveNode,
  nodeAt,
  opened,
  pathText,
  removeNode,
  stepOf,
  type TreePath,
} from './tree-edits';

const leaf = (name: string): TestTree => ({ kind: 'leaf', test: { test: 'exists', headers: [name] } });
const all = (...children: TestTree[]): TestTree => ({ kind: 'all', children });
const any = (...children: TestTree[]): TestTree => ({ kind: 'any', children });
const none = (...children: TestTree[]): TestTree => ({ kind: 'none', children });
const rule = (tests: TestTree, unless: readonly TestTree[] = []): Rule => ({
  kind: 'rule',
  id: 'r',
  name: 'r',
  note: '',
  on: true,
  tests,
  unless,
  actions: [],
  ending: 'stop',
  link: 'always',
});
/** As `all(a any(b c)) unless d`. */
function shape({ tests, unless }: Rule): string {
  const words = (tree: TestTree): string =>
    tree.kind === 'leaf'
      ? (tree.test.test === 'exists' && tree.test.headers[0]) || '?'
      : `${tree.kind}(${tree.children.map(words).join(' ')})`;
  return [words(tests), ...unless.map((tree) => `unless ${words(tree)}`)].join(' ');
}

describe('the tests and exceptions of a rule, edited as a tree', () => {
  const made = rule(all(leaf('a'), any(leaf('b'), leaf('c')), leaf('d')), [leaf('e')]);

  test.each<[string, TreePath, TreePath, number, string]>([
    ['down among its own', ['tests', 0], ['tests'], 3, 'all(any(b c) d a) unless e'],
    ['up among its own', ['tests', 2], ['tests'], 0, 'all(d a any(b c)) unless e'],
    ['to where it is', ['tests', 0], ['tests'], 1, 'all(a any(b c) d) unless e'],
    ['into a branch behind it', ['tests', 0], ['tests', 1], 1, 'all(any(b a c) d) unless e'],
    ['into a branch before it', ['tests', 2], ['tests', 1], 2, 'all(a any(b c d)) unless e'],
    ['out of a branch', ['tests', 1, 0], ['tests'], 3, 'all(a any(c) d b) unless e'],
    ['to the exceptions', ['tests', 1], ['unless'], 0, 'all(a d) unless any(b c) unless e'],
    ['from the exceptions', ['unless', 0], ['tests', 1], 0, 'all(a any(e b c) d)'],
    ['not into itself', ['tests', 1], ['tests', 1], 0, 'all(a any(b c) d) unless e'],
    ['not into a test', ['tests', 1], ['tests', 0], 0, 'all(a any(b c) d) unless e'],
    ['nor what is not there', ['tests', 9], ['tests'], 0, 'all(a any(b c) d) unless e'],
  ])('moved %s', (_what, from, branch, index, expected) => {
    expect(shape(moveNode(made, from, branch, index))).toBe(expected);
  });

  test('step by step a test comes everywhere, and to an end', () => {
    let here: Rule = rule(all(leaf('x'), leaf('a'), any(leaf('b'))));
    const seen = [shape(here)];
    let path: TreePath = ['tests', 0];
    for (;;) {
      const step = stepOf(here, path, 1);
      if (!step) break;
      here = moveNode(here, path, step.branch, step.index);
      path = pathOf(here, 'x');
      seen.push(shape(here));
    }
    expect(seen).toEqual([
      'all(x a any(b))',
      'all(a x any(b))',
      'all(a any(x b))',
      'all(a any(b x))',
      'all(a any(b) x)',
    ]);
    for (let n = 0; n < 4; n++) {
      const step = stepOf(here, pathOf(here, 'x'), -1);
      if (step) here = moveNode(here, pathOf(here, 'x'), step.branch, step.index);
    }
    expect(shape(here)).toBe('all(x a any(b))');
    expect(stepOf(here, ['tests', 0], -1)).toBeNull();
  });

  test('put in and taken out', () => {
    expect(shape(insertNode(made, ['unless'], 1, leaf('f')))).toContain('unless e unless f');
    expect(shape(removeNode(made, ['tests', 1, 0]))).toBe('all(a any(c) d) unless e');
    expect(shape(removeNode(made, ['unless', 0]))).toBe('all(a any(b c) d)');
    expect(nodeAt(made, ['tests', 1, 1])).toEqual(leaf('c'));
    expect(nodeAt(made, ['tests', 0, 0])).toBeNull();
  });

  test('kept without branches that say nothing', () => {
    expect(shape(closed(opened(rule(leaf('a')))))).toBe('a');
    expect(shape(closed(rule(all(any(leaf('a')), none(none(leaf('b')))))))).toBe('all(a b)');
    expect(shape(closed(rule(none(leaf('a')), [any(leaf('b'))])))).toBe('none(a) unless b');
    expect(shape(closed(rule(all())))).toBe('all()');
  });
});

/** The path of a test. */
function pathOf(made: Rule, name: string): TreePath {
  const find = (tree: TestTree, path: TreePath): TreePath | null => {
    if (tree.kind === 'leaf') return tree.test.test === 'exists' && tree.test.headers[0] === name ? path : null;
    for (const [index, child] of tree.children.entries()) {
      const found = find(child, [...path, index]);
      if (found) return found;
    }
    return null;
  };
  const found = find(made.tests, ['tests']);
  if (!found) throw new Error(`no test ${name}`);
  return found;
}

test('whatever is moved to wherever, no test is lost and none comes twice', () => {
  const tree: fc.Arbitrary<TestTree> = fc.letrec<{ tree: TestTree }>((tie) => ({
    tree: fc.oneof(
      { maxDepth: 3 },
      fc.string({ minLength: 1, maxLength: 2 }).map(leaf),
      fc
        .tuple(fc.constantFrom(all, any, none), fc.array(tie('tree'), { maxLength: 3 }))
        .map(([make, inner]) => make(...inner)),
    ),
  })).tree;
  const paths = ({ tests, unless }: Rule): TreePath[] => {
    const below = (one: TestTree, path: TreePath): TreePath[] =>
      one.kind === 'leaf' ? [path] : [path, ...one.children.flatMap((child, index) => below(child, [...path, index]))];
    return [...below(tests, ['tests']), ['unless'], ...unless.flatMap((one, index) => below(one, ['unless', index]))];
  };
  const leaves = (one: Rule) =>
    [one.tests, ...one.unless]
      .flatMap(leavesOf)
      .map((test) => JSON.stringify(test))
      .sort();
  fc.assert(
    fc.property(tree, fc.array(tree, { maxLength: 2 }), fc.nat(), fc.nat(), fc.nat(3), (tests, unless, a, b, index) => {
      const before = opened(rule(tests, unless));
      const places = paths(before);
      const [from, branch] = [elementAt(places, a % places.length), elementAt(places, b % places.length)];
      const moved = moveNode(before, from, branch, index);
      expect([pathText(from), pathText(branch), leaves(moved)]).toEqual([
        pathText(from),
        pathText(branch),
        leaves(before),
      ]);
    }),
    { numRuns: 2000 },
  );
});
