import { Command, CommanderError } from 'commander';
import packageFile from '../../package.json' with { type: 'json' };
import { keysOf } from '../core/text/lookup';
import { argumentOf, CliError, optionsOf } from './options';
import { VERBS } from './verbs';

const COMMAND = 'npm run --silent cli --';

const NOTES = `FILE is a Sieve script, Sieve in XML, a sheet (.csv), sentences (.txt) or JSON.
PATH is an mbox file, an .eml file, a Maildir, an archive, or a folder of these.
One of them may be "-" for standard input.
Rules run as Sieve runs them, unless --profile names a JSON file that says otherwise: order, ending, places, inbox, delete, deleteWins.
Rules see the time when each message arrived, unless --now sets another time.
An audit leaves out messages sent from one of your addresses (--me), unless --with-sent is given.
Exit code 0 means success, 1 means "no" or an error.`;

/** The command line. It calls `ended` with the exit code: 0 for success, 1 for "no" or an error, which goes to standard error. */
function commandLine(ended: (code: number) => void): Command {
  const program = new Command()
    .name(COMMAND)
    .usage('VERB [options]')
    .description('Audits incoming-mail rules.')
    .version(packageFile.version, '--version', 'the version of this program')
    .helpOption('-h, --help', 'this help; with a verb, the help of that verb')
    .helpCommand(false)
    .addHelpText('after', `\n${NOTES}`)
    .exitOverride()
    // `wordsOf` words the errors.
    .configureOutput({ outputError: () => {} });
  for (const name of keysOf(VERBS)) {
    const verb = VERBS[name];
    const command = program.command(name).description(verb.about).helpOption('-h, --help', 'this help').exitOverride();
    command.usage(verb.usage).addHelpText('after', `\nExample: ${COMMAND} ${verb.example}\n\n${NOTES}`);
    if ('files' in verb) command.addArgument(argumentOf());
    for (const option of optionsOf(verb.options)) command.addOption(option);
    command.action(async () => ended(await verb.run(command.args, command.opts())));
  }
  return program;
}

async function main(): Promise<number> {
  let code = 0;
  const program = commandLine((ended) => {
    code = ended;
  });
  try {
    await program.parseAsync();
    return code;
  } catch (error) {
    if (error instanceof CommanderError && error.exitCode === 0) return 0;
    if (!(error instanceof CommanderError) && !(error instanceof CliError)) throw error;
    process.stderr.write(`${wordsOf(error, program)}\n`);
    return 1;
  }
}

/** One line: what is wrong, and where to read on. Options that are wrong lead to the help of their verb. */
function wordsOf(error: Error, program: Command): string {
  const verb = keysOf(VERBS).find((name) => name === program.args[0]);
  const help = `see ${COMMAND} ${verb ? `${verb} ` : ''}--help`;
  if (!(error instanceof CommanderError))
    return error.message.startsWith('--') ? `${error.message}; ${help}` : error.message;
  switch (error.code) {
    case 'commander.unknownCommand':
      return `"${program.args[0] ?? ''}" is not a verb: use ${keysOf(VERBS).join(', ')}; ${help}`;
    case 'commander.help':
      return program.helpInformation();
    default:
      return `${error.message.replace(/^error: /, '').replace(/\.$/, '')}; ${help}`;
  }
}

// A reader that closes its end early, such as head, is not an error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

void main().then((code) => {
  process.exitCode = code;
});
