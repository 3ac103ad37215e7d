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
 * Writes whether two chains treat every message alike, as one JSON object: a witness where they do not, the time at which it
 * has to arrive where that matters, and which of the given messages have another fate. Exit code 0 exactly when they are equivalent.
 */
export async function compare(options: z.infer<typeof compareOptions>): Promise<number> {
  const [a, b] = [await readSoundChain(options.rules), await readSoundChain(options.with)];
  const clock = clockOf(options.now);
  const comparison = compareChains(a, b, { knowledge: new Knowledge(BUDGET, null, clock.fixed) });
  const needed = [...atomsOf(a), ...atomsOf(b)];
  const { columns } = await columnsOfFile(needed, options.messages ?? null, options.me);
  const atoms = evaluateAtoms(needed, columns, () => {}, clock);
  const [first, second] = [runFlow(a, atoms, columns.count), runFlow(b, atoms, columns.count)];
  const messages = [...first.fates.differsFrom(second.fates).members()];
  // Messages that are at hand prove a difference as well as one that is made up.
  const verdict = messages.length > 0 ? 'different' : comparison.verdict;
  const found = comparison.verdict === 'different' ? comparison.witness : null;
  const witness = found?.text() ?? null;
  const now = found?.now === null || found === null ? null : new Date(found.now).toISOString();
  const reason = verdict === 'undecided' && comparison.verdict === 'undecided' ? { reason: comparison.reason } : {};
  process.stdout.write(`${JSON.stringify({ verdict, witness, now, messages, ...reason })}\n`);
  return verdict === 'equivalent' ? 0 : 1;
}
