import fc from 'fast-check';
import { expect, test } from 'vitest';
import { FALSE, type Formula, Formulas, not, TRUE } from './formula';

const ATOMS = 4;

/** A formula as a tree, evaluated independently. */
type Tree = number | { readonly not: Tree } | { readonly and: readonly Tree[] } | { readonly or: readonly Tree[] };

const tree: fc.Arbitrary<Tree> = fc.letrec<{ tree: Tree }>((tie) => ({
  tree: fc.oneof(
    { maxDepth: 4, withCrossShrink: true },
    fc.nat(ATOMS - 1),
    tie('tree').map((inner): Tree => ({ not: inner })),
    fc.array(tie('tree'), { maxLength: 3 }).map((and): Tree => ({ and })),
    fc.array(tie('tree'), { maxLength: 3 }).map((or): Tree => ({ or })),
  ),
})).tree;

function truth(one: Tree, assignment: number): boolean {
  if (typeof one === 'number') return ((assignment >> one) & 1) === 1;
  if ('not' in one) return !truth(one.not, assignment);
  if ('and' in one) return one.and.every((part) => truth(part, assignment));
  return one.or.some((part) => truth(part, assignment));
}

function made(one: Tree, formulas: Formulas): Formula {
  if (typeof one === 'number') return formulas.atom(one);
  if ('not' in one) return not(made(one.not, formulas));
  if ('and' in one) return formulas.and(...one.and.map((part) => made(part, formulas)));
  return formulas.or(...one.or.map((part) => made(part, formulas)));
}

const ASSIGNMENTS = Array.from({ length: 1 << ATOMS }, (_, assignment) => assignment);

test('formulas hold as the trees they were made of, and differ where those do', () => {
  fc.assert(
    fc.property(tree, tree, (first, second) => {
      const formulas = new Formulas();
      const [a, b] = [made(first, formulas), made(second, formulas)];
      const differ = formulas.differ(a, b);
      for (const assignment of ASSIGNMENTS) {
        const atomHolds = (atom: number) => ((assignment >> atom) & 1) === 1;
        expect(formulas.holds(a, atomHolds)).toBe(truth(first, assignment));
        expect(formulas.holds(differ, atomHolds)).toBe(truth(first, assignment) !== truth(second, assignment));
      }
    }),
    { numRuns: 2000 },
  );
});

test('what says the same set of conditions is the same formula', () => {
  const formulas = new Formulas();
  const [a, b, c] = [formulas.atom(0), formulas.atom(1), formulas.atom(2)];
  expect(formulas.and(a, formulas.and(b, c))).toBe(formulas.and(c, b, a, b));
  expect(formulas.and(a, not(a))).toBe(FALSE);
  expect(formulas.or(a, not(a))).toBe(TRUE);
  expect(formulas.and()).toBe(TRUE);
  expect(formulas.or()).toBe(FALSE);
  expect(formulas.differ(formulas.and(a, b), formulas.and(b, a))).toBe(FALSE);
});

test('nesting of any depth', () => {
  const formulas = new Formulas();
  let deep = formulas.atom(0);
  for (let level = 1; level < 50_000; level++) {
    deep = level % 2 ? formulas.or(deep, formulas.atom(level)) : formulas.and(deep, formulas.atom(level));
  }
  expect(formulas.holds(deep, () => true)).toBe(true);
  expect(formulas.holds(deep, () => false)).toBe(false);
  expect(formulas.within(deep)).toHaveLength(2 * 50_000 - 1);
});
