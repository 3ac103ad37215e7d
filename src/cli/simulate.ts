import type { z } from 'zod';
import { isDropped } from '../core/sieve/interpret/fate';
import { elementAt } from '../core/text/lookup';
import { readSoundChain } from './files';
import { clockOf, flowsOfFile } from './flow';
import type { simulateOptions } from './options';

/** Prints the fate of every message as one JSON line, in file order. */
export async function simulate(options: z.infer<typeof simulateOptions>): Promise<number> {
  const chain = await readSoundChain(options.rules, options);
  let first = 0;
  for await (const { flow, ids } of flowsOfFile(chain, options.messages, options.me, clockOf(options.now))) {
    const fired = ids.map((): string[] => []);
    for (const { entry, fired: messages } of flow.entries) {
      for (const at of messages.members()) fired[at]?.push(entry.name);
    }
    const fates = flow.fates.allFates();
    const lines = ids.map((messageId, at) => {
      const fate = elementAt(fates, at);
      const { deliveries, redirects, rejected } = fate;
      const discarded = isDropped(fate);
      const line = { index: first + at, messageId, deliveries, redirects, rejected, discarded, fired: fired[at] };
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
