import type { z } from 'zod';
import { evaluateAtoms } from '../core/flow/atoms';
import { runFlow } from '../core/flow/flow';
import { atomsOf } from '../core/flow/program';
import { toldSteps } from '../core/repair/told-steps';
import type { Chain } from '../core/rules/rule';
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
  const columns = await columnsOfFile(needed, options.messages ?? null, options.me);
  const atoms = evaluateAtoms(needed, columns, () => {}, clock);
  const flowOf = (chain: Chain) => runFlow(chain, atoms, columns.count);
  const { steps: found, isSafe } = toldSteps(from, to, { ends: [flowOf(from), flowOf(to)], flowOf, clock });
  if (!isSafe) process.stderr.write('no order of these steps is safe, so the rules concerned are switched off first\n');
  found.forEach(({ do: what, rule, place, before, after, cannot, test }, at) => {
    const line = { step: at + 1, do: what, rule, place, before, after, cannot, test };
    process.stdout.write(`${JSON.stringify(line)}\n`);
  });
  return 0;
}
