import type { z } from 'zod';
import { evaluateAtoms } from '../core/flow/atoms';
import { runFlow } from '../core/flow/flow';
import { atomsOf } from '../core/flow/program';
import { compareChains } from '../core/reason/equivalence';
import { Knowledge } from '../core/reason/knowledge';
import { BUDGET } from '../core/reason/solve/solver';
import { readSoundChain } from './files';
import { clockOf, columnsOfFile } from './flow';
import type { compareOptions } from './options';

/**
 * Prints whether two chains treat every message alike, as one JSON object: for a difference, a witness, the time at
 * which it must arrive if that matters, and the given messages with another fate. The exit code is 0 exactly when the
 * chains are equivalent.
 */
export async function compare(options: z.infer<typeof compareOptions>): Promise<number> {
  const a = await readSoundChain(options.rules, options);
  const b = await readSoundChain(options.with, options);
  const clock = clockOf(options.now);
  const comparison = compareChains(a, b, { knowledge: new Knowledge(BUDGET, null, clock.fixed) });
  const needed = [...atomsOf(a), ...atomsOf(b)];
  const columns = await columnsOfFile(needed, options.messages ?? null, options.me);
  const atoms = evaluateAtoms(needed, columns, () => {}, clock);
  const [first, second] = [runFlow(a, atoms, columns.count), runFlow(b, atoms, columns.count)];
  const messages = [...first.fates.differsFrom(second.fates).members()];
  // Stored messages prove a difference as well as a made-up one.
  const verdict = messages.length > 0 ? 'different' : comparison.verdict;
  const found = comparison.verdict === 'different' ? comparison.witness : null;
  const witness = found?.text() ?? null;
  const now = found?.now === null || found === null ? null : new Date(found.now).toISOString();
  const assumes = verdict === 'equivalent' && comparison.verdict === 'equivalent' ? comparison.assumes : [];
  const reason = verdict === 'undecided' && comparison.verdict === 'undecided' ? { reason: comparison.reason } : {};
  process.stdout.write(`${JSON.stringify({ verdict, assumes, witness, now, messages, ...reason })}\n`);
  return verdict === 'equivalent' ? 0 : 1;
}
