import { resolve } from 'node:path';
import { type ParseArgsConfig, parseArgs } from 'node:util';
import { z } from 'zod';
import { maybeSingleAddress } from '../core/mail/address';
import { CliError } from './errors';

const address = z
  .string()
  .refine((text) => maybeSingleAddress(text) !== null, { error: 'is not one complete address' });

const rules = z
  .array(z.string())
  .min(1)
  .or(z.undefined().transform(() => []))
  .refine((files) => files.length > 0, { error: 'is missing' });

export const simulateOptions = z.object({
  rules,
  messages: z.string({ error: 'is missing' }),
  me: z.array(address).default([]),
  now: z.iso.datetime({ offset: true, error: 'is not a date and time by ISO 8601' }).optional(),
});

export const auditOptions = z.object({
  rules,
  messages: z.string().optional(),
  me: z.array(address).default([]),
});

export const compareOptions = z.object({
  rules,
  with: rules,
  messages: z.string().optional(),
  me: z.array(address).default([]),
});

export const convertOptions = z.object({
  rules: rules.refine((files) => files.length === 1, { error: 'is one file' }).transform(([file]) => file as string),
  to: z.enum(['sieve', 'xml', 'json', 'sheet'], { error: 'is one of sieve, xml, json, sheet' }),
  target: z.string().optional(),
});

const FLAGS: NonNullable<ParseArgsConfig['options']> = {
  rules: { type: 'string', multiple: true },
  with: { type: 'string', multiple: true },
  messages: { type: 'string' },
  me: { type: 'string', multiple: true },
  now: { type: 'string' },
  to: { type: 'string' },
  target: { type: 'string' },
};

/** Reads and checks options; throws `CliError` with the option's name. */
export function readOptions<T>(args: string[], shape: z.ZodType<T>): T {
  let values: unknown;
  try {
    ({ values } = parseArgs({ args, options: FLAGS, allowPositionals: false }));
  } catch (error) {
    throw new CliError(error instanceof Error ? (error.message.split('\n')[0] as string) : String(error));
  }
  const checked = shape.safeParse(values);
  if (checked.success) return checked.data;
  const problem = checked.error.issues[0];
  throw new CliError(`--${String(problem?.path[0])} ${problem?.message}`);
}

/** npm runs scripts in the project's folder; paths are meant from where the user stands. */
export function fromHere(path: string): string {
  return resolve(process.env.INIT_CWD ?? process.cwd(), path);
}
