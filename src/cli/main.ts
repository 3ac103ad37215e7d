import { audit } from './audit';
import { check } from './check';
import { compare } from './compare';
import { convert } from './convert';
import { CliError } from './errors';
import { simulate } from './simulate';

const VERBS: Readonly<Record<string, (args: string[]) => Promise<number>>> = {
  check,
  simulate,
  audit,
  compare,
  convert,
};

const USAGE = `usage: npm run --silent cli -- check FILE
       npm run --silent cli -- simulate --rules FILE... --messages FILE [--me ADDRESS]... [--now ISO]
       npm run --silent cli -- audit --rules FILE... [--messages FILE] [--me ADDRESS]...
       npm run --silent cli -- compare --rules FILE... --with FILE... [--messages FILE] [--me ADDRESS]...
       npm run --silent cli -- convert --rules FILE --to sieve|xml|json`;

/** Exit codes: 0 for success, 1 for "no" or an error, which is told on standard error. */
async function main(): Promise<number> {
  const [verb = '', ...args] = process.argv.slice(2);
  const run = Object.hasOwn(VERBS, verb) ? VERBS[verb] : undefined;
  if (!run) {
    const words = verb === '' ? '' : `"${verb}" is not a verb of this command line\n`;
    process.stderr.write(`${words}${USAGE}\n`);
    return 1;
  }
  try {
    return await run(args);
  } catch (error) {
    if (!(error instanceof CliError)) throw error;
    process.stderr.write(`${error.message}\n`);
    return 1;
  }
}

// A reader that closes its end early, such as head, is no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

process.exitCode = await main();
