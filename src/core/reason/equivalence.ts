import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { fateKey } from '../sieve/interpret/fate';
import { type Interpreter, interpreter } from '../sieve/interpret/interpret';
import { makeWorld } from '../sieve/interpret/world';
import { parse } from '../sieve/parse';
import { lowerChain } from './chain';
import { Lowering } from './lower';
import { FALSE, type Formula } from './solve/formula';
import { BUDGET, type Budget, Solver } from './solve/solver';
import { buildWitness, type Witness } from './witness';

export type Comparison =
  /** No message can be treated differently. */
  | { readonly verdict: 'equivalent' }
  /** This one is, and the interpreter has confirmed it. */
  | { readonly verdict: 'different'; readonly witness: Witness }
  | { readonly verdict: 'undecided'; readonly reason: string };

/**
 * Whether two chains treat every message alike. Each part of the fate is compared by itself: where its formulas differ for
 * some message, that message is made up and run through both chains.
 */
export function compareChains(a: Chain, b: Chain, budget: Budget = BUDGET): Comparison {
  const lowering = new Lowering();
  const [first, second] = [lowerChain(a, lowering).fates, lowerChain(b, lowering).fates];
  const differences = new Set<Formula>();
  for (const part of new Set([...first.keys(), ...second.keys()])) {
    differences.add(lowering.formulas.differ(first.get(part) ?? FALSE, second.get(part) ?? FALSE));
  }
  differences.delete(FALSE);
  const runs = [runnerOf(a), runnerOf(b)] as const;
  const solver = new Solver(lowering.formulas, lowering.facts);
  let reason: string | null = null;
  for (const difference of differences) {
    const answer = solver.possible([difference], budget);
    if (answer.answer === 'impossible') continue;
    if (answer.answer === 'undecided') {
      reason = answer.reason;
      continue;
    }
    const witness = buildWitness(answer.model, lowering.facts);
    if (witness && fateOf(runs[0], witness) !== fateOf(runs[1], witness)) return { verdict: 'different', witness };
    reason = 'what may differ depends on tests that are not understood, or on a message that cannot be written';
  }
  return reason === null ? { verdict: 'equivalent' } : { verdict: 'undecided', reason };
}

const runnerOf = (chain: Chain): Interpreter => interpreter(parse(sieveFromChain(chain).text).script);

/** Both chains see the same clock. */
function fateOf(run: Interpreter, { message, envelope }: Witness): string {
  return fateKey(run(message, envelope, { world: makeWorld({ now: Date.UTC(2026, 0, 1) }) }).fate);
}
