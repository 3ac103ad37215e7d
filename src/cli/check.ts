import { CliError } from './errors';
import { readScriptFile } from './files';

/** Silent when the script is valid; else one line for each fault. */
export async function check(args: string[]): Promise<number> {
  const [path, ...rest] = args;
  if (!path || rest.length > 0) throw new CliError('check takes one file');
  const { faults } = await readScriptFile(path);
  if (faults.length === 0) return 0;
  throw new CliError(faults.join('\n'));
}
