import { CliError } from './errors';
import { readScriptFile } from './files';
import { checkOptions, readOptions } from './options';

/** Silent when all scripts are valid; else one line for each fault. */
export async function check(args: string[]): Promise<number> {
  if (args.length === 0) throw new CliError('check takes at least one file');
  const { rules } = readOptions(args, checkOptions, { files: true });
  const faults: string[] = [];
  for (const path of rules) faults.push(...(await readScriptFile(path)).faults);
  if (faults.length === 0) return 0;
  throw new CliError(faults.join('\n'));
}
