import type { z } from 'zod';
import { isDropped } from '../core/sieve/interpret/fate';
import { readSoundChain } from './files';
import { clockOf, flowOfFile } from './flow';
import type { simulateOptions } from './options';

/** Prints the fate of every message as one JSON line, in file order. */
export async function simulate(options: z.infer<typeof simulateOptions>): Promise<number> {
  const chain = await readSoundChain(options.rules, options);
  const { flow, ids } = await flowOfFile(chain, options.messages, options.me, clockOf(options.now));
  const lines: string[] = [];
  ids.forEach((messageId, index) => {
    const fate = flow.fates.fateOf(index);
    const { deliveries, redirects, rejected } = fate;
    const fired = flow.entries.filter((entry) => entry.fired.has(index)).map((entry) => entry.entry.name);
    const discarded = isDropped(fate);
    lines.push(`${JSON.stringify({ index, messageId, deliveries, redirects, rejected, discarded, fired })}\n`);
    if (lines.length >= 1000) process.stdout.write(lines.splice(0).join(''));
  });
  process.stdout.write(lines.join(''));
  return 0;
}
