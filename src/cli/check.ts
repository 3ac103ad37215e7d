import type { z } from 'zod';
import { readRulesFile } from './files';
import { CliError, type checkOptions } from './options';

/** Prints nothing when all scripts are valid, else one line for each fault. */
export async function check({ rules }: z.infer<typeof checkOptions>): Promise<number> {
  const faults: string[] = [];
  for (const path of rules) faults.push(...(await readRulesFile(path)).faults);
  if (faults.length === 0) return 0;
  throw new CliError(faults.join('\n'));
}
