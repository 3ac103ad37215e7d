import { Command, CommanderError } from 'commander';
import packageFile from '../../package.json' with { type: 'json' };
import { keysOf } from '../core/text/lookup';
import { argumentOf, CliError, optionsOf } from './options';
import { VERBS } from './verbs';

const COMMAND = 'npm run --silent cli --';

const NOTES = `FILE is a Sieve script, Sieve in XML, a sheet (.csv) or JSON; PATH is an mbox file, an .eml file, a Maildir, an archive, or a
folder of these. One of them may be "-" for standard input. Rules see the time at which each message arrived, unless --now
sets another. Messages that one of your addresses (--me) sent don't take part in an audit, unless --with-sent is given.`;

/** The command line, which sets `ended` to its exit code: 0 for success, 1 for "no" or an error, which is told on standard error. */
function commandLine(ended: (code: number) => void): Command {
  const program = new Command()
    .name(COMMAND)
    .usage('VERB [options]')
    .description('Audits incoming-mail rules.')
    .version(packageFile.version, '--version', 'the version of this program')
    .helpOption('-h, --help', 'this, or with a verb more about it')
    .helpCommand(false)
    .addHelpText('after', `\n${NOTES}`)
    .exitOverride()
    // Faults are told in words of our own.
    .configureOutput({ outputError: () => {} });
  for (const name of keysOf(VERBS)) {
    const verb = VERBS[name];
    const command = program.command(name).description(verb.about).exitOverride();
    command.usage(verb.usage).addHelpText('after', `\n${NOTES}`);
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

function wordsOf(error: Error, program: Command): string {
  if (!(error instanceof CommanderError)) return error.message;
  const verb = program.args[0] ?? '';
  switch (error.code) {
    case 'commander.unknownCommand':
      return `"${verb}" is not a verb of this command line\n${program.helpInformation()}`;
    case 'commander.help':
      return program.helpInformation();
    default:
      return error.message.replace(/^error: /, '');
  }
}

// A reader that closes its end early, such as head, is no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

process.exitCode = await main();
