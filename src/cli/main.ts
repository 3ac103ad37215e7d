import packageFile from '../../package.json' with { type: 'json' };
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

const COMMAND = 'npm run --silent cli --';

/** How each verb is called, and what it does. */
const USAGE: Readonly<Record<string, readonly [call: string, about: string]>> = {
  check: ['check FILE... [--rules FILE]...', 'reads rules; silent when they are valid'],
  simulate: [
    'simulate --rules FILE... --messages PATH [--me ADDRESS]... [--now ISO]',
    'runs the rules over messages; one JSON line for each',
  ],
  audit: [
    'audit --rules FILE... [--messages PATH] [--me ADDRESS]... [--now ISO] [--with-sent]',
    'writes the findings and the flow of the rules as JSON',
  ],
  compare: [
    'compare --rules FILE... --with FILE... [--messages PATH] [--me ADDRESS]... [--now ISO]',
    'tells whether two sets of rules treat every message alike',
  ],
  convert: [
    'convert --rules FILE --to sieve|xml|json|sheet [--target "core"|"common"|"CAPABILITY ..."]',
    'writes rules in another form',
  ],
};

const NOTES = `FILE is a Sieve script, Sieve in XML, a sheet (.csv) or JSON; PATH is an mbox file, an .eml file, a Maildir, an archive, or a
folder of these. One of them may be "-" for standard input. Rules see the time at which each message arrived, unless --now
sets another. Messages that one of your addresses (--me) sent don't take part in an audit, unless --with-sent is given.`;

function usage(verbs: readonly string[] = Object.keys(USAGE)): string {
  const lines = verbs.map((verb) => `  ${COMMAND} ${USAGE[verb]?.[0]}\n      ${USAGE[verb]?.[1]}`);
  return `usage:\n${lines.join('\n')}\n\n${NOTES}\n`;
}

/** Exit codes: 0 for success, 1 for "no" or an error, which is told on standard error. */
async function main(): Promise<number> {
  const [verb = '', ...args] = process.argv.slice(2);
  const run = Object.hasOwn(VERBS, verb) ? VERBS[verb] : undefined;
  if (/^(--help|-h|help)$/.test(verb) || (run && args.some((argument) => /^(--help|-h)$/.test(argument)))) {
    process.stdout.write(usage(run ? [verb] : undefined));
    return 0;
  }
  if (verb === '--version') {
    process.stdout.write(`${packageFile.version}\n`);
    return 0;
  }
  if (!run) {
    const words = verb === '' ? '' : `"${verb}" is not a verb of this command line\n`;
    process.stderr.write(`${words}${usage()}`);
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
