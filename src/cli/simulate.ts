import type { z } from 'zod';
import { isDropped } from '../core/sieve/interpret/fate';
import { readSoundChain } from './files';
import { clockOf, flowsOfFile } from './flow';
import type { simulateOptions } from './options';

/** Prints the fate of every message as one JSON line, in file order. */
export async function simulate(options: z.infer<typeof simulateOptions>): Promise<number> {
  const chain = await readSoundChain(options.rules, options);
  let first = 0;
  for await (const { flow, ids } of flowsOfFile(chain, options.messages, options.me, clockOf(options.now))) {
    const lines = ids.map((messageId, at) => {
      const fate = flow.fates.fateOf(at);
      const { deliveries, redirects, rejected } = fate;
      const fired = flow.entries.filter((entry) => entry.fired.has(at)).map(({ entry }) => entry.name);
      const line = { index: first + at, messageId, deliveries, redirects, rejected, discarded: isDropped(fate), fired };
      return `${JSON.stringify(line)}\n`;
    });
    first += ids.length;
    await written(lines.join(''));
  }
  return 0;
}

/** Resolves when the reader of the output is ready for more. */
const written = (text: string): Promise<void> =>
  new Promise((resolve) => {
    process.stdout.write(text, () => resolve());
  });
