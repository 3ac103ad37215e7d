import type { Argument, CommandNode, StringArgument, TestNode } from '../sieve/tree';

/** Builds syntax nodes and arguments that have no source text. */
const NOWHERE = { start: 0, end: 0 };

export function testNamed(
  name: string,
  args: readonly Argument[],
  children: readonly TestNode[] = [],
  listed = false,
): TestNode {
  return { kind: 'test', name, args, tests: children, listed, ...NOWHERE };
}

export function command(name: string, args: readonly Argument[]): CommandNode {
  return {
    kind: 'command',
    name,
    args,
    tests: [],
    listed: false,
    block: null,
    leading: [],
    inner: [],
    ...NOWHERE,
  };
}

export const tag = (name: string): Argument => ({ kind: 'tag', name, ...NOWHERE });

export const string = (value: string): StringArgument => ({ kind: 'string', value, form: 'quoted', ...NOWHERE });

/** Texts of whole lines use the multi-line form (RFC 5228 section 2.4.2), which ends each line in CRLF. */
export const text = (value: string): StringArgument =>
  /^(?:[^\r\n]*\r\n)+$/.test(value) ? { ...string(value), form: 'multiline' } : string(value);

/** A single string needs no brackets (RFC 5228 section 2.4.2.1). */
export function strings(values: readonly string[]): Argument {
  const [only] = values;
  if (values.length === 1 && only !== undefined) return string(only);
  return { kind: 'string-list', items: values.map(string), ...NOWHERE };
}

export const number = (value: number): Argument => ({ kind: 'number', value, quantifier: null, ...NOWHERE });

const UNITS = [
  ['G', 1024 ** 3],
  ['M', 1024 ** 2],
  ['K', 1024],
] as const;

/** Uses the largest quantifier that leaves a whole number. */
export function octets(value: number): Argument {
  const unit = UNITS.find(([, size]) => value > 0 && value % size === 0);
  return { kind: 'number', value, quantifier: unit?.[0] ?? null, ...NOWHERE };
}

/** A tag with its value, or nothing if there is no value. */
export const tagged = (name: string, value: Argument | undefined): Argument[] =>
  value === undefined ? [] : [tag(name), value];

/** A tag without a value, if it is set. */
export const flagged = (name: string, given: boolean | undefined): Argument[] => (given ? [tag(name)] : []);

/** No flags are written as the empty string (RFC 5232 section 2). */
export const flagStrings = (flags: readonly string[]): Argument => strings(flags.length === 0 ? [''] : flags);
