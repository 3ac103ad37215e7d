import { audit } from './audit';
import { check } from './check';
import { compare } from './compare';
import { convert } from './convert';
import {
  auditOptions,
  checkOptions,
  compareOptions,
  convertOptions,
  fetchOptions,
  type OptionName,
  planOptions,
  simulateOptions,
  stepsOptions,
  verb,
} from './options';
import { plan } from './plan';
import { simulate } from './simulate';
import { steps } from './steps';

/** Each verb: its help, its options and the function that runs it. */
export const VERBS = {
  check: {
    about: 'checks rules; prints nothing when they are valid',
    usage: 'FILE... [--rules FILE]... [--profile FILE]',
    example: 'check rules.sieve',
    files: true,
    options: ['rules', 'profile', 'now'],
    run: verb(checkOptions, check, '--rules is missing: name at least one file'),
  },
  simulate: {
    about: 'runs the rules on messages; prints one JSON line per message',
    usage: '--rules FILE... [--profile FILE] --messages PATH [--me ADDRESS]... [--now ISO]',
    example: 'simulate --rules rules.sieve --messages inbox.mbox --me maren@mill.example',
    options: ['rules', 'profile', 'messages', 'me', 'now'],
    run: verb(simulateOptions, simulate),
  },
  fetch: {
    about: 'fetches mail from a server into a folder, only what is new; nothing changes on the server',
    usage:
      '--server HOST[:PORT] --user NAME --out FOLDER [--security HOW] [--trust FINGERPRINT] [--since DAY] [--audit FILE]',
    example: 'fetch --server imap.mill.example --user maren --out Mail < password.txt',
    options: ['server', 'user', 'out', 'security', 'trust', 'since', 'audit'],
    // Loaded when it is asked for, since all that it needs takes longer than most of the other verbs.
    run: verb(fetchOptions, async (options) => (await import('./fetch')).fetch(options)),
  },
  audit: {
    about: 'prints the findings and the flow of the rules as one JSON object',
    usage: '--rules FILE... [--profile FILE] [--messages PATH] [--me ADDRESS]... [--now ISO] [--with-sent] [--all]',
    example: 'audit --rules rules.sieve --messages Maildir --me maren@mill.example > findings.json',
    options: ['rules', 'profile', 'messages', 'me', 'now', 'with-sent', 'all'],
    run: verb(auditOptions, audit),
  },
  compare: {
    about: 'prints whether two chains treat every message alike',
    usage: '--rules FILE... --with FILE... [--profile FILE] [--messages PATH] [--me ADDRESS]... [--now ISO]',
    example: 'compare --rules in-use.sieve --with new.sieve',
    options: ['rules', 'with', 'profile', 'messages', 'me', 'now'],
    run: verb(compareOptions, compare),
  },
  plan: {
    about: 'prints what to do with the rules, in order, and what only you can answer, as one JSON object',
    usage: '--rules FILE... [--profile FILE] --messages PATH [--me ADDRESS]... [--now ISO] [--answers FILE]',
    example: 'plan --rules rules.sieve --messages Maildir --me maren@mill.example > plan.json',
    options: ['rules', 'profile', 'messages', 'me', 'now', 'answers'],
    run: verb(planOptions, plan),
  },
  steps: {
    about: 'prints the steps by hand from one chain to another, one JSON line per step',
    usage: '--rules FILE... --with FILE... [--profile FILE] [--messages PATH] [--me ADDRESS]...',
    example: 'steps --rules in-use.csv --with changed.csv --profile program.json --messages inbox.mbox',
    options: ['rules', 'with', 'profile', 'messages', 'me'],
    run: verb(stepsOptions, steps),
  },
  convert: {
    about: 'converts rules to another format',
    usage:
      '--rules FILE [--profile FILE] --to sieve|xml|json|sheet|sentences [--target "core"|"common"|"CAPABILITY ..."]',
    example: 'convert --rules rules.sieve --to sieve --target "fileinto copy" > for-server.sieve',
    options: ['rules', 'profile', 'to', 'target'],
    run: verb(convertOptions, convert),
  },
} as const satisfies Readonly<
  Record<
    string,
    {
      readonly about: string;
      readonly usage: string;
      /** A whole call, without the name of the program. */
      readonly example: string;
      /** Whether files may be given without an option. */
      readonly files?: true;
      readonly options: readonly OptionName[];
      readonly run: ReturnType<typeof verb>;
    }
  >
>;
