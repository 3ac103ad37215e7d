import { evaluateAtoms } from '../core/flow/atoms';
import { runFlow } from '../core/flow/flow';
import { atomsOf } from '../core/flow/program';
import { compareChains } from '../core/reason/equivalence';
import { readSoundChain } from './files';
import { columnsOfFile } from './flow';
import { compareOptions, readOptions } from './options';

/**
 * Writes whether two chains treat every message alike, as one JSON object: a witness where they do not, and which of the
 * given messages have another fate. Exit code 0 exactly when they are equivalent.
 */
export async function compare(args: string[]): Promise<number> {
  const options = readOptions(args, compareOptions);
  const [a, b] = [await readSoundChain(options.rules), await readSoundChain(options.with)];
  const comparison = compareChains(a, b);
  const now = Date.now();
  const needed = [...atomsOf(a), ...atomsOf(b)];
  const { columns } = await columnsOfFile(needed, options.messages ?? null, options.me);
  const atoms = evaluateAtoms(needed, columns, () => {}, now);
  const [first, second] = [runFlow(a, atoms, columns.count), runFlow(b, atoms, columns.count)];
  const messages = [...first.fates.differsFrom(second.fates).members()];
  // Messages that are at hand prove a difference as well as one that is made up.
  const verdict = messages.length > 0 ? 'different' : comparison.verdict;
  const witness = comparison.verdict === 'different' ? comparison.witness.text() : null;
  const reason = verdict === 'undecided' && comparison.verdict === 'undecided' ? { reason: comparison.reason } : {};
  process.stdout.write(`${JSON.stringify({ verdict, witness, messages, ...reason })}\n`);
  return verdict === 'equivalent' ? 0 : 1;
}
