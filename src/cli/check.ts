import type { z } from 'zod';
import { readRulesFile, underProfile } from './files';
import { CliError, type checkOptions } from './options';

/** Prints nothing when all scripts are valid, else one line for each fault. */
export async function check({ rules, profile }: z.infer<typeof checkOptions>): Promise<number> {
  const faults: string[] = [];
  for (const path of rules) {
    const read = await readRulesFile(path);
    faults.push(...read.faults);
    await underProfile(read.chain, profile);
  }
  if (faults.length === 0) return 0;
  throw new CliError(faults.join('\n'));
}
