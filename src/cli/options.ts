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

/** What tests of the current date see; the time at which each message arrived where it is left out. */
const now = z.iso
  .datetime({ offset: true, error: 'is not a date and time by ISO 8601' })
  .transform((text) => Date.parse(text))
  .optional();

const me = z.array(address).default([]);

export const checkOptions = z.object({ rules, now });

export const simulateOptions = z.object({ rules, messages: z.string({ error: 'is missing' }), me, now });

export const auditOptions = z.object({
  rules,
  messages: z.string().optional(),
  me,
  now,
  'with-sent': z.boolean().default(false),
});

export const compareOptions = z.object({ rules, with: rules, messages: z.string().optional(), me, now });

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
  'with-sent': { type: 'boolean' },
  to: { type: 'string' },
  target: { type: 'string' },
};

/**
 * Reads and checks options; throws `CliError` with the option's name. With `files`, arguments without an option are rules
 * too.
 */
export function readOptions<T>(args: string[], shape: z.ZodType<T>, { files = false } = {}): T {
  let values: unknown;
  try {
    const read = parseArgs({ args, options: FLAGS, allowPositionals: files });
    const rules = [...((read.values.rules as string[] | undefined) ?? []), ...read.positionals];
    values = { ...read.values, ...(rules.length > 0 ? { rules } : {}) };
  } catch (error) {
    throw new CliError(error instanceof Error ? (error.message.split('\n')[0] as string) : String(error));
  }
  const checked = shape.safeParse(values);
  if (checked.success) return checked.data;
  const problem = checked.error.issues[0];
  throw new CliError(`--${String(problem?.path[0])} ${problem?.message}`);
}
