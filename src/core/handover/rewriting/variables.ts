import { effectsOf, statementEffects } from '../../rules/effects';
import type { Chain, ScriptBlock } from '../../rules/rule';
import { hasReferences, REFERENCE } from '../../sieve/interpret/run';
import { parse } from '../../sieve/parse';
import { print } from '../../sieve/print';
import { eachString, mapStrings, stringsIn } from '../../sieve/strings';
import type { CommandNode, Statement } from '../../sieve/tree';

/** Variables that have one value from some point of the chain on. */
export type Constants = ReadonlyMap<string, { readonly value: string; readonly place: number }>;

/** Those set by one block only, unconditionally, to a constant. */
export function constantsOf({ entries }: Chain): Constants {
  const writers = new Map<string, number>();
  for (const entry of entries.filter(({ on }) => on)) {
    for (const token of effectsOf(entry).writes) writers.set(token, (writers.get(token) ?? 0) + 1);
  }
  const constants = new Map<string, { value: string; place: number }>();
  for (const [place, entry] of entries.entries()) {
    if (entry.kind !== 'script' || !entry.on || !entry.works) continue;
    const { commands } = parse(entry.text).script;
    for (const command of commands) {
      const known = new Map([...constants].map(([name, { value }]) => [name, value]));
      const found = maybeConstant(mapStrings(command, (text) => expanded(text, known)));
      if (!found) continue;
      const alone = commands.filter((other) => statementEffects([other], true).writes.has(`variable ${found.name}`));
      if (writers.get(`variable ${found.name}`) === 1 && alone.length === 1)
        constants.set(found.name, { ...found, place });
    }
  }
  return constants;
}

/**
 * A script block without `variables` (RFC 5229), if all of them are set once, before it or at its top, to constants:
 * references are replaced by values, and every message is treated alike. Null for any other use of variables.
 */
export function withoutVariables(block: ScriptBlock, place: number, constants: Constants): ScriptBlock | null {
  const { script } = parse(block.text);
  const known = new Map<string, string>();
  for (const [name, constant] of constants) if (constant.place < place) known.set(name, constant.value);
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

/** `set "name" "value"`, without modifiers, with a value that reads the same under all capabilities. */
function maybeConstant(statement: Statement): { readonly name: string; readonly value: string } | null {
  if (statement.kind !== 'command' || statement.name !== 'set' || statement.args.length !== 2) return null;
  const [name, value] = stringsIn(statement.args);
  if (!name || !value || value.value.includes('$') || name.value.includes('.')) return null;
  return { name: name.value.toLowerCase(), value: value.value };
}

/** Whether anything is left that needs `variables`. */
function usesVariables(statement: Statement): boolean {
  if (statement.kind === 'unreadable') return true;
  const inTests = (tests: CommandNode['tests']): boolean =>
    tests.some((test) => test.name === 'string' || inTests(test.tests));
  if (statement.name === 'set' || inTests(statement.tests)) return true;
  return (statement.block?.commands ?? []).some(usesVariables);
}
