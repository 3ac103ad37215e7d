import { type Diagnostic, diagnostic } from './diagnostics';
import { REFERENCE } from './interpret/run';
import type { Argument, Block, CommandNode, Script, Statement, StringArgument, TestNode } from './tree';

/** Maps every string of a statement, including tests and blocks. */
export function mapStrings(statement: Statement, change: (value: string) => string): Statement {
  if (statement.kind === 'unreadable') return statement;
  const inArgument = (argument: Argument): Argument => {
    if (argument.kind === 'string') return inString(argument);
    return argument.kind === 'string-list' ? { ...argument, items: argument.items.map(inString) } : argument;
  };
  const inString = (item: StringArgument): StringArgument => ({ ...item, value: change(item.value) });
  const inTest = (test: TestNode): TestNode => ({
    ...test,
    args: test.args.map(inArgument),
    tests: test.tests.map(inTest),
  });
  const inBlock = (block: Block): Block => ({ ...block, commands: block.commands.map(inStatement) });
  const inStatement = (inner: Statement): Statement =>
    inner.kind === 'unreadable'
      ? inner
      : {
          ...inner,
          args: inner.args.map(inArgument),
          tests: inner.tests.map(inTest),
          block: inner.block && inBlock(inner.block),
        };
  return inStatement(statement);
}

/** The strings among arguments, including those of lists, in order. */
export function stringsIn(args: readonly Argument[]): readonly StringArgument[] {
  return args.flatMap((arg) => (arg.kind === 'string' ? [arg] : arg.kind === 'string-list' ? arg.items : []));
}

/** Calls `look` for every string of the statements, including tests and blocks. */
export function eachString(statements: readonly Statement[], look: (item: StringArgument) => void): void {
  const inTest = (test: TestNode) => {
    stringsIn(test.args).forEach(look);
    test.tests.forEach(inTest);
  };
  const inCommand = (node: CommandNode) => {
    stringsIn(node.args).forEach(look);
    node.tests.forEach(inTest);
    eachString(node.block?.commands ?? [], look);
  };
  for (const statement of statements) if (statement.kind === 'command') inCommand(statement);
}

/** Required capabilities that change how strings are read. */
export interface StringReading {
  readonly variables: boolean;
  readonly encoded: boolean;
  /** The name of a variable that the script never sets. */
  readonly unset: string;
}

/** Names of the variables used to protect references. */
export const UNSET_NAME = /^nothing\d{0,9}$/i;

/**
 * Writes a string that means exactly its characters where a script requires `variables` or `encoded-character`,
 * although neither has an escape. `${hex:40}` becomes `${hex:24}{hex:40}`, since decoded text is not decoded again (RFC
 * 5228 section 2.4.2.4); `${x}` becomes `$${nothing}{x}`, since an unset variable is empty, and expanded text is not
 * expanded again (RFC 5229 section 3).
 */
export function literal(value: string, { variables, encoded, unset }: StringReading): string {
  if (!value.includes('${')) return value;
  const undecoded = encoded ? value.replace(ENCODED, (forms) => forms.replaceAll('$', () => '${hex:24}')) : value;
  return variables ? undecoded.replace(REFERENCE, (form) => `$\${${unset}}${form.slice(1)}`) : undecoded;
}

const BLANKS = '[ \\t\\r\\n]';
const several = (one: string): string => `(?:${BLANKS}*${one}(?:${BLANKS}+${one})*${BLANKS}*)`;
/** The first digit of an octet is optional. */
const OCTETS = several('[0-9a-f]{1,2}');
const CHARACTERS = several('[0-9a-f]+');

/**
 * `${hex: 24 24}` and `${unicode: 40}` (RFC 5228 section 2.4.2.4): caseless, spaces allowed, malformed ones literal.
 * Adjacent octet forms are joined, since together they may form a character.
 */
export const ENCODED = new RegExp(`(?:\\$\\{hex:${OCTETS}\\})+|\\$\\{unicode:${CHARACTERS}\\}`, 'gi');

const requiresEncodedCharacter = (script: Script): boolean => requires(script, 'encoded-character');

export function requires(script: Script, capability: string): boolean {
  return script.commands.some(
    (statement) =>
      statement.kind === 'command' &&
      statement.name === 'require' &&
      stringsIn(statement.args).some(({ value }) => value === capability),
  );
}

/** The script with all encoded characters decoded if it requires that; the same object otherwise. */
export function decodeEncoded(script: Script): Script {
  if (!requiresEncodedCharacter(script)) return script;
  return { ...script, commands: script.commands.map((statement) => mapStrings(statement, decodeText)) };
}

/** Numbers that are not characters, an error when the script is compiled. */
export function encodedFaults(script: Script): Diagnostic[] {
  if (!requiresEncodedCharacter(script)) return [];
  const faults: Diagnostic[] = [];
  const look = (item: StringArgument) => {
    for (const [found] of item.value.matchAll(ENCODED)) {
      if (maybeDecoded(found) === null) faults.push(diagnostic('bad-encoded-character', item, { found }));
    }
  };
  eachString(script.commands, look);
  return faults;
}

function decodeText(text: string): string {
  return text.replace(ENCODED, (form) => maybeDecoded(form) ?? form);
}

/** Null for numbers that are not characters. */
function maybeDecoded(form: string): string | null {
  const octets = /^\$\{hex/i.test(form);
  const digits = form.replace(/\$\{(?:hex|unicode):|\}/gi, ' ').trim();
  const numbers = digits.split(/\s+/).map((part) => Number.parseInt(part, 16));
  if (octets) return new TextDecoder('utf-8', { ignoreBOM: true }).decode(Uint8Array.from(numbers));
  const valid = numbers.every((number) => number <= 0x10ffff && (number < 0xd800 || number > 0xdfff));
  return valid ? String.fromCodePoint(...numbers) : null;
}
