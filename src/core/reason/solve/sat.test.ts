import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Sat } from './sat';

const VARIABLES = 6;
const literal = fc.integer({ min: 0, max: 2 * VARIABLES - 1 });
const clauses = fc.array(fc.array(literal, { minLength: 1, maxLength: 4 }), { maxLength: 40 });

const meets = (assignment: number, clause: readonly number[]): boolean =>
  clause.some((one) => ((assignment >> (one >> 1)) & 1) === (one & 1 ? 0 : 1));

test('agrees with trying every assignment, and its models meet all clauses', () => {
  let [satisfiable, refuted] = [0, 0];
  fc.assert(
    fc.property(
      clauses,
      fc.array(fc.array(literal, { minLength: 1, maxLength: 3 }), { maxLength: 12 }),
      (first, later) => {
        const sat = new Sat();
        for (let variable = 0; variable < VARIABLES; variable++) sat.variable();
        for (const given of [first, [...first, ...later]]) {
          for (const clause of given === first ? first : later) sat.add(clause);
          const possible = Array.from({ length: 1 << VARIABLES }, (_, assignment) => assignment).some((assignment) =>
            given.every((clause) => meets(assignment, clause)),
          );
          expect(sat.solve(10_000)).toBe(possible);
          if (possible) satisfiable++;
          else refuted++;
          if (!possible) continue;
          let model = 0;
          for (let variable = 0; variable < VARIABLES; variable++) if (sat.isTrue(variable)) model |= 1 << variable;
          for (const clause of given) expect(meets(model, clause)).toBe(true);
        }
      },
    ),
    { numRuns: 3000 },
  );
  expect(Math.min(satisfiable, refuted)).toBeGreaterThan(500);
});

test('with some literals taken for true: the same as with them as clauses, one question after the other', () => {
  const assumptions = fc.array(fc.uniqueArray(literal, { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 6 });
  fc.assert(
    fc.property(clauses, assumptions, (given, questions) => {
      const sat = new Sat();
      for (let variable = 0; variable < VARIABLES; variable++) sat.variable();
      for (const clause of given) sat.add(clause);
      for (const assumed of questions) {
        const all = [...given, ...assumed.map((one) => [one])];
        const possible = Array.from({ length: 1 << VARIABLES }, (_, assignment) => assignment).some((assignment) =>
          all.every((clause) => meets(assignment, clause)),
        );
        expect(sat.solve(10_000, assumed)).toBe(possible);
        if (possible) for (const one of assumed) expect(sat.isTrue(one >> 1)).toBe((one & 1) === 0);
      }
    }),
    { numRuns: 1500 },
  );
});

test('more pigeons than holes: refuted by learning, or given up within its budget', () => {
  const pigeons = (count: number): Sat => {
    const sat = new Sat();
    const at = Array.from({ length: count + 1 }, () => Array.from({ length: count }, () => 2 * sat.variable()));
    for (const row of at) sat.add(row);
    for (let hole = 0; hole < count; hole++) {
      for (let one = 0; one <= count; one++) {
        for (let two = 0; two < one; two++) sat.add([(at[one]?.[hole] ?? 0) ^ 1, (at[two]?.[hole] ?? 0) ^ 1]);
      }
    }
    return sat;
  };
  expect(pigeons(5).solve(100_000)).toBe(false);
  expect(pigeons(9).solve(50)).toBeNull();
});

test('clauses that come one after the other', () => {
  const sat = new Sat();
  const [a, b] = [sat.variable(), sat.variable()];
  sat.add([2 * a, 2 * b]);
  expect(sat.solve(100)).toBe(true);
  sat.add([2 * a, 2 * b + 1]);
  expect(sat.solve(100)).toBe(true);
  sat.add([2 * a + 1, 2 * b]);
  expect([sat.solve(100), sat.isTrue(a), sat.isTrue(b)]).toEqual([true, true, true]);
  sat.add([2 * a + 1, 2 * b + 1]);
  expect(sat.solve(100)).toBe(false);
});

test('nothing but what must hold is true', () => {
  const sat = new Sat();
  const [a, b, c] = [sat.variable(), sat.variable(), sat.variable()];
  sat.add([2 * a, 2 * b, 2 * c]);
  expect(sat.solve(100)).toBe(true);
  expect([a, b, c].filter((variable) => sat.isTrue(variable))).toHaveLength(1);
});
