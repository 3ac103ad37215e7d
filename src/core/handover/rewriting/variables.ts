import type { ScriptBlock } from '../../rules/rule';
import { hasReferences, REFERENCE } from '../../sieve/interpret/expand';
import { parse } from '../../sieve/parse';
import { print } from '../../sieve/print';
import { eachString, mapStrings, stringsIn } from '../../sieve/strings';
import type { CommandNode, Statement } from '../../sieve/tree';

/**
 * A script block without `variables` (RFC 5229), where all of them are set once, at its top, to what never changes: each stands where
 * it was referred to, and every message ends the same. Null where anything else is done with variables.
 */
export function withoutVariables(block: ScriptBlock): ScriptBlock | null {
  const { script } = parse(block.text);
  const known = new Map<string, string>();
  const left: Statement[] = [];
  for (const statement of script.commands) {
    const said = known.size > 0 ? mapStrings(statement, (text) => expanded(text, known)) : statement;
    if (hasAnyReference(said)) return null;
    const constant = maybeConstant(said);
    if (!constant) left.push(said);
    else if (known.has(constant.name)) return null;
    else known.set(constant.name, constant.value);
  }
  if (left.some(usesVariables)) return null;
  const text = print({ ...script, source: '', commands: left }).trimEnd();
  const requires = block.requires.filter((name) => name !== 'variables');
  return { ...block, text, requires, on: left.length > 0 };
}

const expanded = (text: string, known: ReadonlyMap<string, string>): string =>
  text.replace(REFERENCE, (whole, name: string) => known.get(name.toLowerCase()) ?? whole);

function hasAnyReference(statement: Statement): boolean {
  let found = false;
  eachString([statement], ({ value }) => {
    found ||= hasReferences(value);
  });
  return found;
}

/** `set "name" "value"`, without modifiers, of a value that reads the same under all that a script may require. */
function maybeConstant(statement: Statement): { readonly name: string; readonly value: string } | null {
  if (statement.kind !== 'command' || statement.name !== 'set' || statement.args.length !== 2) return null;
  const [name, value] = stringsIn(statement.args);
  if (!name || !value || value.value.includes('$') || name.value.includes('.')) return null;
  return { name: name.value.toLowerCase(), value: value.value };
}

/** Whether anything is left that only `variables` has. */
function usesVariables(statement: Statement): boolean {
  if (statement.kind === 'unreadable') return true;
  const inTests = (tests: CommandNode['tests']): boolean =>
    tests.some((test) => test.name === 'string' || inTests(test.tests));
  if (statement.name === 'set' || inTests(statement.tests)) return true;
  return (statement.block?.commands ?? []).some(usesVariables);
}
