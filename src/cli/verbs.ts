import { audit } from './audit';
import { check } from './check';
import { compare } from './compare';
import { convert } from './convert';
import {
  auditOptions,
  checkOptions,
  compareOptions,
  convertOptions,
  type OptionName,
  simulateOptions,
  verb,
} from './options';
import { simulate } from './simulate';

/** How each verb is called, what it does, and what does it. */
export const VERBS = {
  check: {
    about: 'reads rules; silent when they are valid',
    usage: 'FILE... [--rules FILE]...',
    files: true,
    options: ['rules', 'now'],
    run: verb(checkOptions, check, 'check takes at least one file'),
  },
  simulate: {
    about: 'runs the rules over messages; one JSON line for each',
    usage: '--rules FILE... --messages PATH [--me ADDRESS]... [--now ISO]',
    options: ['rules', 'messages', 'me', 'now'],
    run: verb(simulateOptions, simulate),
  },
  audit: {
    about: 'writes the findings and the flow of the rules as JSON',
    usage: '--rules FILE... [--messages PATH] [--me ADDRESS]... [--now ISO] [--with-sent]',
    options: ['rules', 'messages', 'me', 'now', 'with-sent'],
    run: verb(auditOptions, audit),
  },
  compare: {
    about: 'tells whether two sets of rules treat every message alike',
    usage: '--rules FILE... --with FILE... [--messages PATH] [--me ADDRESS]... [--now ISO]',
    options: ['rules', 'with', 'messages', 'me', 'now'],
    run: verb(compareOptions, compare),
  },
  convert: {
    about: 'writes rules in another form',
    usage: '--rules FILE --to sieve|xml|json|sheet [--target "core"|"common"|"CAPABILITY ..."]',
    options: ['rules', 'to', 'target'],
    run: verb(convertOptions, convert),
  },
} as const satisfies Readonly<
  Record<
    string,
    {
      readonly about: string;
      readonly usage: string;
      /** Whether files may stand there without an option. */
      readonly files?: true;
      readonly options: readonly OptionName[];
      readonly run: ReturnType<typeof verb>;
    }
  >
>;
