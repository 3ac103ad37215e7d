import { comparatorCapabilities } from '../match/comparators';
import { discard, fileinto, keep, redirect } from './actions/delivery';
import { addflag, removeflag, setflag } from './actions/flags';
import { elseCommand, elsifCommand, ifCommand, require, stop } from './controls';
import type { CommandDefinition, Signature, TestDefinition } from './definition';
import { body } from './extensions/body';
import { convert } from './extensions/convert';
import { date } from './extensions/date';
import { duplicate } from './extensions/duplicate';
import { editheader } from './extensions/editheader';
import { enotify } from './extensions/enotify';
import { environment } from './extensions/environment';
import type { Extension } from './extensions/extension';
import { extlists } from './extensions/extlists';
import { ihave } from './extensions/ihave';
import { include } from './extensions/include';
import { mailbox } from './extensions/mailbox';
import { mime } from './extensions/mime';
import { reject } from './extensions/reject';
import { spamtest } from './extensions/spamtest';
import { specialUse } from './extensions/specialuse';
import { vacation } from './extensions/vacation';
import { variables } from './extensions/variables';
import { address, envelope, exists, header } from './tests/fields';
import { hasflag } from './tests/hasflag';
import { allof, always, anyof, never, not } from './tests/logic';
import { size } from './tests/size';

/** The base language, with the extensions that change it. */
const BASE: Extension = {
  capabilities: [
    'fileinto',
    'envelope',
    'encoded-character',
    'copy',
    'imap4flags',
    'relational',
    'subaddress',
    'regex',
    'envelope-dsn',
    'redirect-dsn',
    'envelope-deliverby',
    'redirect-deliverby',
    ...comparatorCapabilities(),
  ],
  commands: [
    require,
    ifCommand,
    elsifCommand,
    elseCommand,
    stop,
    keep,
    fileinto,
    redirect,
    discard,
    setflag,
    addflag,
    removeflag,
  ],
  tests: [allof, anyof, not, always, never, header, address, envelope, exists, size, hasflag],
};

/** The whole language: anything without a row here is unknown. */
const EXTENSIONS: readonly Extension[] = [
  BASE,
  body,
  convert,
  date,
  duplicate,
  editheader,
  enotify,
  environment,
  extlists,
  ihave,
  include,
  mailbox,
  mime,
  reject,
  spamtest,
  specialUse,
  vacation,
  variables,
];

export const commands: ReadonlyMap<string, CommandDefinition> = new Map(
  EXTENSIONS.flatMap((extension) => extension.commands ?? []).map((row) => [row.name, row]),
);
export const tests: ReadonlyMap<string, TestDefinition> = new Map(
  EXTENSIONS.flatMap((extension) => extension.tests ?? []).map((row) => [row.name, row]),
);
export const capabilities: ReadonlySet<string> = new Set(EXTENSIONS.flatMap((extension) => extension.capabilities));

/** The capabilities of which one must be required for a command or test; empty for the base language. */
export function capabilitiesOf({ capability }: Signature): readonly string[] {
  if (capability === null) return [];
  return typeof capability === 'string' ? [capability] : capability;
}
