import { createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Argument, Option } from 'commander';
import { z } from 'zod';
import { maybeSingleAddress } from '../core/mail/address';
import { elementAt, keysOf } from '../core/text/lookup';
import { RULES_FORMS } from '../files/rules/forms';

/** An error that the caller of the command line can correct; its message is one clear line. */
export class CliError extends Error {}

/** The file name that stands for standard input. */
export const STANDARD_INPUT = '-';

let spooled: Promise<string> | null = null;

/** The path of a file given by name. Standard input is spooled to a file first, since it may be read more than once. */
export function localPath(path: string): Promise<string> {
  if (path !== STANDARD_INPUT) return Promise.resolve(fromHere(path));
  spooled ??= spool();
  return spooled;
}

/** npm runs scripts in the project's folder; paths are relative to where the user called npm. */
export const fromHere = (path: string): string => resolve(process.env.INIT_CWD ?? process.cwd(), path);

async function spool(): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'ysomeris-'));
  process.once('exit', () => rmSync(folder, { recursive: true, force: true }));
  const file = join(folder, 'input');
  await pipeline(process.stdin, createWriteStream(file, { flags: 'wx', mode: 0o600 }));
  return file;
}

const address = z
  .string()
  .refine((text) => maybeSingleAddress(text) !== null, { error: 'is not a single complete address' });

const rules = z
  .array(z.string())
  .min(1)
  .or(z.undefined().transform(() => []))
  .refine((files) => files.length > 0, { error: 'is missing' });

/** The current date that rules see; if absent, the time when each message arrived. */
const now = z.iso
  .datetime({ offset: true, error: 'is not a date and time by ISO 8601, such as 2026-01-31T12:00:00Z' })
  .transform((text) => Date.parse(text))
  .optional();

const me = z.array(address).default([]);

/** A file that says how the program that the rules are in runs them. */
const profile = z.string().optional();

export const checkOptions = z.object({ rules, profile, now });

export const simulateOptions = z.object({ rules, profile, messages: z.string({ error: 'is missing' }), me, now });

export const auditOptions = z.object({
  rules,
  profile,
  messages: z.string().optional(),
  me,
  now,
  'with-sent': z.boolean().default(false),
  all: z.boolean().default(false),
});

export const planOptions = z.object({
  rules,
  profile,
  messages: z.string({ error: 'is missing' }),
  me,
  now,
  answers: z.string().optional(),
});

export const compareOptions = z.object({ rules, with: rules, profile, messages: z.string().optional(), me, now });

export const stepsOptions = z.object({ rules, with: rules, profile, messages: z.string().optional(), me });

export const fetchOptions = z.object({
  server: z
    .string({ error: 'is missing' })
    .regex(/^(\[[\da-f:.]+\]|[^\s:/@[\]]+)(:\d{1,5})?$/i, { error: 'is not a host, or a host and a port' })
    .transform((text) => {
      const [, host = '', port] = /^(.*?)(?::(\d+))?$/.exec(text) ?? [];
      return { host: host.replace(/^\[|\]$/g, ''), port: port === undefined ? null : Number(port) };
    })
    .refine(({ port }) => port === null || (port > 0 && port < 65_536), { error: 'has no such port' }),
  security: z.enum(['tls', 'starttls', 'plain'], { error: 'is one of tls, starttls, plain' }).default('tls'),
  user: z.string({ error: 'is missing' }).min(1, { error: 'is missing' }),
  trust: z
    .string()
    .regex(/^([\dA-F]{2}:){31}[\dA-F]{2}$/, { error: 'is not the SHA-256 fingerprint of a certificate' })
    .optional(),
  since: z.iso
    .date({ error: 'is not a day by ISO 8601, such as 2026-01-31' })
    .transform((text) => new Date(text))
    .optional(),
  out: z.string({ error: 'is missing' }).min(1, { error: 'is missing' }),
  audit: z.string().optional(),
});

export const convertOptions = z.object({
  rules: rules
    .refine((files) => files.length === 1, { error: 'is one file' })
    .transform((files) => elementAt(files, 0)),
  profile,
  to: z.enum(keysOf(RULES_FORMS), { error: `is one of ${keysOf(RULES_FORMS).join(', ')}` }),
  target: z.string().optional(),
});

/** Each option: its argument, whether it can be repeated, its help. */
const OPTIONS = {
  rules: { flags: '--rules <FILE>', several: true, about: 'rules; several files run one after another, as one chain' },
  with: { flags: '--with <FILE>', several: true, about: 'the rules to compare them with' },
  profile: { flags: '--profile <FILE>', several: false, about: 'how the program that the rules are in runs them' },
  messages: { flags: '--messages <PATH>', several: false, about: 'the mail to run the rules on' },
  me: { flags: '--me <ADDRESS>', several: true, about: 'one of your addresses' },
  now: { flags: '--now <ISO>', several: false, about: 'the current date that rules see' },
  'with-sent': { flags: '--with-sent', several: false, about: 'include mail that you sent' },
  answers: { flags: '--answers <FILE>', several: false, about: 'where messages must end, one JSON object a line' },
  all: { flags: '--all', several: false, about: 'include findings that are possible only' },
  to: { flags: '--to <FORM>', several: false, about: keysOf(RULES_FORMS).join(', ') },
  server: { flags: '--server <HOST:PORT>', several: false, about: 'the mail server' },
  security: { flags: '--security <HOW>', several: false, about: 'tls, starttls, or plain on this machine' },
  user: { flags: '--user <NAME>', several: false, about: 'your name on the server' },
  trust: { flags: '--trust <FINGERPRINT>', several: false, about: 'a certificate that you have checked (SHA-256)' },
  since: { flags: '--since <DAY>', several: false, about: 'only mail that arrived on this day or later' },
  out: { flags: '--out <FOLDER>', several: false, about: 'where fetched mail is stored' },
  audit: { flags: '--audit <FILE>', several: false, about: 'an exported audit: are its expectations met by all mail?' },
  target: { flags: '--target <SERVER>', several: false, about: 'core, common, or capabilities' },
} as const;

export type OptionName = keyof typeof OPTIONS;

/** The options of a verb; the shape of the verb checks their presence and values. */
export const optionsOf = (names: readonly OptionName[]): Option[] =>
  names.map((name) => {
    const { flags, several, about } = OPTIONS[name];
    const option = new Option(flags, about);
    return several ? option.argParser((value, before?: readonly string[]) => [...(before ?? []), value]) : option;
  });

/** Files given without an option are rules too. */
export const argumentOf = (): Argument => new Argument('[FILE...]', 'rules');

/**
 * Wraps the function of a verb. Throws `CliError` with the name of an option that does not fit its shape, or with
 * `nothing` if there are neither files nor options.
 */
export function verb<T>(
  shape: z.ZodType<T>,
  work: (options: T) => Promise<number>,
  nothing?: string,
): (files: readonly string[], given: Readonly<Record<string, unknown>>) => Promise<number> {
  return (files, { withSent, ...given }) => {
    if (nothing !== undefined && files.length === 0 && Object.keys(given).length === 0) throw new CliError(nothing);
    const rules = [...(Array.isArray(given.rules) ? given.rules : []), ...files];
    const checked = shape.safeParse({
      ...given,
      ...(rules.length > 0 ? { rules } : {}),
      ...(withSent === undefined ? {} : { 'with-sent': withSent }),
    });
    if (checked.success) return work(checked.data);
    const [problem] = checked.error.issues;
    throw new CliError(`--${String(problem?.path[0])} ${problem?.message}`);
  };
}
