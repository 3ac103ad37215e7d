import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { init } from 'z3-solver';
import { Reach } from '../reason/reach';
import { COMPARISON } from '../reason/solve/assumptions';
import { chainFromSieve } from '../rules/from-sieve';
import { elementAt } from '../text/lookup';

/**
 * Whether a message can make tests true, asked of our solver and of a general one with a theory of strings, in SMT-LIB
 * 2.6: the value of a field that is taken to occur at most once is a string, and its presence a Boolean.
 */

type Z3 = Awaited<ReturnType<typeof init>>;
let z3: Z3;

beforeAll(async () => {
  z3 = await init();
}, 60_000);

// Its threads would keep the process alive.
afterAll(() => {
  (z3.em as { PThread: { terminateAllThreads: () => void } }).PThread.terminateAllThreads();
});

interface Formula {
  readonly sieve: string;
  readonly smt: string;
}

const FIELDS = ['subject', 'message-id'] as const;
const name = (field: string) => field.replace('-', '_');

const word = fc.string({ unit: fc.constantFrom('a', 'b', 'c'), maxLength: 3 });
const field = fc.constantFrom(...FIELDS);

const leaf: fc.Arbitrary<Formula> = fc.oneof(
  fc.tuple(field, word).map(([f, key]) => ({
    sieve: `header :is "${f}" "${key}"`,
    smt: `(and has_${name(f)} (= ${name(f)} "${key}"))`,
  })),
  fc.tuple(field, word).map(([f, key]) => ({
    sieve: `header :contains "${f}" "${key}"`,
    smt: `(and has_${name(f)} (str.contains ${name(f)} "${key}"))`,
  })),
  fc
    .tuple(field, fc.array(fc.oneof(word, fc.constantFrom('*', '?')), { minLength: 1, maxLength: 5 }))
    .map(([f, pieces]) => ({
      sieve: `header :matches "${f}" "${pieces.join('')}"`,
      smt: `(and has_${name(f)} (str.in_re ${name(f)} ${pattern(pieces)}))`,
    })),
  field.map((f) => ({ sieve: `exists "${f}"`, smt: `has_${name(f)}` })),
);

function pattern(pieces: readonly string[]): string {
  const parts = pieces.map((piece) => {
    if (piece === '*') return '(re.* re.allchar)';
    return piece === '?' ? 're.allchar' : `(str.to_re "${piece}")`;
  });
  return parts.length === 1 ? elementAt(parts, 0) : `(re.++ ${parts.join(' ')})`;
}

const formula: fc.Arbitrary<Formula> = fc.letrec<{ formula: Formula }>((tie) => ({
  formula: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    leaf,
    tie('formula').map(({ sieve, smt }) => ({ sieve: `not ${sieve}`, smt: `(not ${smt})` })),
    fc
      .tuple(fc.constantFrom('and', 'or'), fc.array(tie('formula'), { minLength: 2, maxLength: 5 }))
      .map(([how, parts]) => ({
        sieve: `${how === 'and' ? 'allof' : 'anyof'} (${parts.map(({ sieve }) => sieve).join(', ')})`,
        smt: `(${how} ${parts.map(({ smt }) => smt).join(' ')})`,
      })),
  ),
})).formula;

/** Fields contain printable characters without spaces at either end; folded, so without capital letters. */
const DECLARED = FIELDS.map(
  (f) => `(declare-const ${name(f)} String)
(declare-const has_${name(f)} Bool)
(assert (str.in_re ${name(f)} (re.* (re.range "a" "z"))))`,
).join('\n');

async function asked(solver: { reset(): void; fromString(text: string): void; check(): Promise<string> }, smt: string) {
  solver.reset();
  solver.fromString(`${DECLARED}\n(assert ${smt})`);
  return solver.check();
}

test('agrees with a general solver with a theory of strings', { timeout: 240_000 }, async () => {
  // Conjunctions of several tests, since random larger formulas are mostly trivial.
  const several = fc.array(formula, { minLength: 2, maxLength: 5 });
  const samples = fc.sample(several, { numRuns: 400, seed: 20_261 });
  const counts = new Map<string, number>();
  const solver = new (z3.Context('main').Solver)();
  solver.set('timeout', 2000);
  for (const parts of samples) {
    const sieve = `allof (${parts.map((part) => part.sieve).join(', ')})`;
    const smt = `(and ${parts.map((part) => part.smt).join(' ')})`;
    const theirs = await asked(solver, smt);
    const { chain } = chainFromSieve(`if ${sieve} { keep; }`);
    const reach = new Reach(chain);
    const ours = reach.meet([reach.condition(0)], null, COMPARISON).answer;
    counts.set(theirs, (counts.get(theirs) ?? 0) + 1);
    if (theirs === 'unknown') continue;
    expect([sieve, ours]).toEqual([sieve, theirs === 'sat' ? 'possible' : 'impossible']);
  }
  const settled = (counts.get('sat') ?? 0) + (counts.get('unsat') ?? 0);
  expect(settled).toBeGreaterThanOrEqual(300);
  expect(Math.min(counts.get('sat') ?? 0, counts.get('unsat') ?? 0)).toBeGreaterThan(40);
});
