import type { z } from 'zod';
import { evaluateAtoms } from '../core/flow/atoms';
import { runFlow } from '../core/flow/flow';
import { atomsOf } from '../core/flow/program';
import { firing } from '../core/flow/trace';
import { Knowledge } from '../core/reason/knowledge';
import { isWorse, maybeTestOf, reachesOf, stepsBetween } from '../core/repair/steps';
import { profileOf } from '../core/rules/profile';
import { cannotBeDone } from '../core/rules/profile-words';
import type { Chain, ChainEntry } from '../core/rules/rule';
import { sentenceOf } from '../core/rules/sentence';
import { worldFor } from '../core/sieve/interpret/world';
import { readSoundChain } from './files';
import { clockOf, columnsOfFile } from './flow';
import type { stepsOptions } from './options';

/**
 * Prints the steps by hand from one chain to the other, one JSON object a line, in an order in which no state between
 * loses, redirects or hides mail that neither of the two does; says so if there is no such order.
 */
export async function steps(options: z.infer<typeof stepsOptions>): Promise<number> {
  const from = await readSoundChain(options.rules, options);
  const to = await readSoundChain(options.with, options);
  const clock = clockOf(undefined);
  const needed = [...atomsOf(from), ...atomsOf(to)];
  const { columns } = await columnsOfFile(needed, options.messages ?? null, options.me);
  const atoms = evaluateAtoms(needed, columns, () => {}, clock);
  const flowOf = (chain: Chain) => runFlow(chain, atoms, columns.count);
  const ends = [flowOf(from), flowOf(to)] as const;
  const knowledge = new Knowledge();
  const isUnsafe = (state: Chain) => isWorse(flowOf(state), ends);
  const { steps: found, isSafe } = stepsBetween(from, to, { knowledge, isUnsafe });
  if (!isSafe) process.stderr.write('no order of these steps is safe, so the rules concerned are switched off first\n');
  const reachOf = reachesOf(knowledge);
  const profile = profileOf(to);
  const said = (entry: ChainEntry | null) => entry && sentenceOf(entry, profile);
  const run = firing(to);
  found.forEach((step, at) => {
    const { before, after, place } = step;
    const witness = maybeTestOf(step, from, to, reachOf);
    const fate = witness && run(witness.message, witness.envelope, worldFor(witness.message, clock)).fate;
    const line = {
      step: at + 1,
      do: step.do,
      rule: (after ?? before)?.name ?? '',
      place,
      before: said(before),
      after: said(after),
      cannot: profile && after?.kind === 'rule' ? cannotBeDone(after, profile) : [],
      test: witness && { message: witness.text(), folders: fate?.deliveries.map(({ folder }) => folder) ?? [] },
    };
    process.stdout.write(`${JSON.stringify(line)}\n`);
  });
  return 0;
}
